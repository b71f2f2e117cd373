// Answers lines of KIND, X, Y (tab-separated) with Maven's own artifact versions.
import java.io.*;
import java.nio.charset.StandardCharsets;
import org.apache.maven.artifact.versioning.*;

public class Maven {
    static String answer(String kind, String x, String y) {
        if (kind.equals("order")) {
            return Integer.toString(Integer.signum(new ComparableVersion(x).compareTo(new ComparableVersion(y))));
        }
        try {
            return Boolean.toString(VersionRange.createFromVersionSpec(x).containsVersion(new DefaultArtifactVersion(y)));
        } catch (InvalidVersionSpecificationException e) {
            return "error";
        }
    }

    public static void main(String[] arguments) throws IOException {
        BufferedReader in = new BufferedReader(new InputStreamReader(System.in, StandardCharsets.UTF_8));
        PrintWriter out = new PrintWriter(new BufferedWriter(new OutputStreamWriter(System.out, StandardCharsets.UTF_8)));
        for (String line; (line = in.readLine()) != null;) {
            String[] parts = line.split("\t", -1);
            out.println(answer(parts[0], parts[1], parts[2]));
        }
        out.flush();
    }
}
