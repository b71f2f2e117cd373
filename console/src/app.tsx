import { useQuery } from "@tanstack/react-query";
import { Navigate, Route, Routes, useLocation } from "react-router";
import { api, data, rememberSession, ServiceError } from "./api/client";
import { Layout } from "./components/Layout";
import { Failure, Loading } from "./components/States";
import { Compare } from "./pages/Compare";
import { Findings } from "./pages/Findings";
import { Machine } from "./pages/Machine";
import { Machines } from "./pages/Machines";
import { Matrix } from "./pages/Matrix";
import { Overview } from "./pages/Overview";
import { Repository } from "./pages/Repository";
import { SignIn } from "./pages/SignIn";

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
  const session = useQuery({
    queryKey: ["session"],
    queryFn: async () => {
      const s = await data(api.GET("/api/session"));
      rememberSession(s);
      return s;
    },
    staleTime: 60_000,
  });
  if (session.isPending) return <Loading what="Wexo" />;
  if (session.error instanceof ServiceError && session.error.status === 401) {
    const from = location.pathname + location.search;
    return <Navigate to="/sign-in" replace state={{ from }} />;
  }
  if (session.error) return <Failure error={session.error} />;
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
        <Route path="*" element={<Failure error={new Error("There is no such page.")} />} />
      </Routes>
    </Layout>
  );
}
