import { QueryCache, QueryClient } from "@tanstack/react-query";
import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./schema.gen";

export type Schemas = components["schemas"];
export type Finding = Schemas["Finding"];
export type Severity = Finding["severity"];

/** An error of the service, in its own words. */
export class ServiceError extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

/** The CSRF token of the session, sent with every change. */
const session = { csrf: "" };

export function rememberSession(s: Schemas["Session"]) {
  session.csrf = s.csrf;
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

export const api = createClient<paths>({ baseUrl: "/" });
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
    queries: {
      staleTime: 15_000,
      retry: (count, error) => !(error instanceof ServiceError && error.status > 0) && count < 2,
    },
  },
});
