import { QueryCache, QueryClient } from "@tanstack/react-query";
import createClient, { type Middleware } from "openapi-fetch";
import { away, back, onBack } from "../connection";
import type { components, paths } from "./schema.gen";

export type Schemas = components["schemas"];
export type Finding = Schemas["Finding"];
export type Severity = Finding["severity"];

/** An error of the service, in its own words. Its status is 0 where the service did not answer. */
export class ServiceError extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

/** The CSRF token of the session, sent with every change; empty where nobody is signed in. */
const session = { csrf: "" };

export function rememberSession(s: Schemas["Session"]) {
  session.csrf = s.csrf;
}

/** Whether somebody was signed in since the page was opened. */
export function wasSignedIn(): boolean {
  return session.csrf !== "";
}

export function forgetSession() {
  session.csrf = "";
}

/** Calls the service; that nobody is there is told in words, and to those who show it. */
async function reach(request: Request): Promise<Response> {
  try {
    const response = await fetch(request);
    back();
    return response;
  } catch (error) {
    if (request.signal.aborted) throw error;
    away();
    throw new ServiceError(0, "The service does not answer.");
  }
}

const checks: Middleware = {
  onRequest({ request }) {
    if (session.csrf && request.method !== "GET") request.headers.set("X-Wexo-CSRF", session.csrf);
    return request;
  },
  async onResponse({ response }) {
    if (response.ok) return;
    const problem = (await response
      .clone()
      .json()
      .catch(() => null)) as Schemas["Problem"] | null;
    throw new ServiceError(response.status, problem?.detail || `The service answered ${response.status}.`);
  },
};

export const api = createClient<paths>({ baseUrl: "/", fetch: reach });
api.use(checks);

/** The data of a call whose failures were thrown already. */
export async function data<T>(call: Promise<{ data?: T }>): Promise<T> {
  const { data: body } = await call;
  if (body === undefined) throw new ServiceError(0, "The service sent nothing.");
  return body;
}

export const queries = new QueryClient({
  // A session that has ended is noticed by whichever call comes first; the frame then asks to sign in.
  queryCache: new QueryCache({
    onError: (error, query) => {
      if (error instanceof ServiceError && error.status === 401 && query.queryKey[0] !== "session") {
        queries.resetQueries({ queryKey: ["session"] });
      }
    },
  }),
  defaultOptions: {
    // Whether the browser has a network says nothing of a service on this machine.
    queries: { staleTime: 15_000, networkMode: "always", retry: false },
    mutations: { networkMode: "always" },
  },
});

// What was read before is read anew when the service is there again.
onBack(() => queries.invalidateQueries());
