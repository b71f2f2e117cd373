import { Navigate, Route, Routes, useLocation } from "react-router";
import { ServiceError, wasSignedIn } from "./api/client";
import { Layout } from "./components/Layout";
import { Failure, Waiting } from "./components/States";
import { Compare } from "./pages/Compare";
import { Findings } from "./pages/Findings";
import { Machine } from "./pages/Machine";
import { Machines } from "./pages/Machines";
import { Matrix } from "./pages/Matrix";
import { Overview } from "./pages/Overview";
import { Repository } from "./pages/Repository";
import { SignIn } from "./pages/SignIn";
import { Words } from "./pages/Words";
import { useSession } from "./session";

export function App() {
  return (
    <Routes>
      <Route path="/sign-in" element={<SignIn />} />
      <Route path="*" element={<SignedIn />} />
    </Routes>
  );
}

/** Everything that needs a session. */
function SignedIn() {
  const location = useLocation();
  const session = useSession();
  if (session.error instanceof ServiceError && session.error.status === 401) {
    const from = location.pathname + location.search + location.hash;
    return <Navigate to="/sign-in" replace state={{ from, ended: wasSignedIn() }} />;
  }
  if (!session.data) return <Waiting error={session.error} what="Wexo" />;
  return (
    <Layout session={session.data}>
      <Routes>
        <Route index element={<Overview />} />
        <Route path="matrix" element={<Matrix />} />
        <Route path="findings" element={<Findings />} />
        <Route path="repositories/:name" element={<Repository />} />
        <Route path="machines" element={<Machines />} />
        <Route path="machines/:name" element={<Machine />} />
        <Route path="compare" element={<Compare />} />
        <Route path="words" element={<Words />} />
        <Route path="*" element={<Failure error={new Error("There is no such page.")} />} />
      </Routes>
    </Layout>
  );
}
