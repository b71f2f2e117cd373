// Answers lines of KIND, X, Y (tab-separated) with Java's own Runtime.Version.
import java.io.*;

public class Runtime {
    static String answer(String x, String y) {
        try {
            return Integer.toString(Integer.signum(
                java.lang.Runtime.Version.parse(x).compareToIgnoreOptional(java.lang.Runtime.Version.parse(y))));
        } catch (IllegalArgumentException e) {
            return "error";
        }
    }

    public static void main(String[] arguments) throws IOException {
        BufferedReader in = new BufferedReader(new InputStreamReader(System.in));
        PrintWriter out = new PrintWriter(new BufferedWriter(new OutputStreamWriter(System.out)));
        for (String line; (line = in.readLine()) != null;) {
            String[] parts = line.split("\t", -1);
            out.println(answer(parts[1], parts[2]));
        }
        out.flush();
    }
}
