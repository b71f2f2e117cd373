import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useLocation, useNavigate, useSearchParams } from "react-router";
import { api, data, queries, rememberSession, ServiceError } from "../api/client";
import { Logo } from "../components/Mark";
import { Heading } from "../page";

/** Signs in with a token, or at once with the code of a one-time link. */
export function SignIn() {
  const [params] = useSearchParams();
  const location = useLocation();
  const navigate = useNavigate();
  const [token, setToken] = useState("");
  const code = params.get("code") ?? "";
  const tried = useRef(false);
  const signIn = useMutation({
    mutationFn: (body: { token?: string; code?: string }) => data(api.POST("/api/session", { body })),
    onSuccess: (session) => {
      rememberSession(session);
      queries.setQueryData(["session"], session);
      const from = (location.state as { from?: string } | null)?.from;
      navigate(from ?? "/", { replace: true });
    },
  });
  const { mutate } = signIn;
  useEffect(() => {
    if (!code || tried.current) return;
    tried.current = true; // a code works once
    mutate(
      { code },
      {
        // Who is signed in already goes on, whatever became of the link.
        onError: async (error) => {
          if (!(error instanceof ServiceError) || error.status !== 401) return;
          const session = await data(api.GET("/api/session")).catch(() => null);
          if (!session) return;
          rememberSession(session);
          queries.setQueryData(["session"], session);
          navigate("/", { replace: true });
        },
      },
    );
  }, [code, mutate, navigate]);
  const state = location.state as { from?: string; ended?: boolean } | null;
  return (
    <main className="mx-auto flex min-h-screen max-w-[400px] flex-col justify-center px-6">
      <div className="mb-4 flex items-center gap-2 text-[19px] leading-6 font-bold tracking-tight">
        <Logo /> Wexo
      </div>
      <div className="panel p-5">
        <Heading title="Sign in" />
        {state?.ended ? (
          <p role="status" className="mt-1 rounded-md bg-warning-soft px-2 py-1 text-warning">
            Your session has ended. Sign in again to go on where you were.
          </p>
        ) : null}
        <p className="mt-1 text-ink2">
          With the token of a reader, a lead or an owner; a collector&rsquo;s only sends inventories and may see
          nothing. An owner makes one: <code className="font-mono text-mono">wexo tokens add NAME</code>
        </p>
        <form
          className="mt-4 flex flex-col gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            mutate({ token: token.trim() });
          }}
        >
          <label className="font-medium" htmlFor="token">
            Token
          </label>
          <input
            id="token"
            type="password"
            autoComplete="current-password"
            required
            className="rounded-[7px] border border-control bg-panel px-2.5 py-1.5 font-mono text-mono"
            value={token}
            onChange={(e) => setToken(e.target.value)}
          />
          {signIn.error ? (
            <p role="alert" className="text-error">
              {signIn.error.message}
            </p>
          ) : null}
          <button
            type="submit"
            disabled={signIn.isPending}
            className="mt-2 cursor-pointer rounded-[7px] bg-accent px-3 py-1.5 font-semibold text-panel"
          >
            {signIn.isPending ? "Signing in …" : "Sign in"}
          </button>
        </form>
      </div>
    </main>
  );
}
