import type { ReactNode } from "react";

/** Shown while the first answer is under way; quiet for the first moments. */
export function Loading({ what }: { what: string }) {
  return (
    <p className="p-6 text-ink2" role="status">
      Reading {what} …
    </p>
  );
}

/** An error in the service's own words, with a way on. */
export function Failure({ error }: { error: Error }) {
  return (
    <div className="p-6" role="alert">
      <h1>This did not work</h1>
      <p className="mt-1 text-ink2">{error.message}</p>
      <p className="mt-3">
        <a href="/" className="underline">
          Back to the overview
        </a>
      </p>
    </div>
  );
}

/** Nothing to show, and why that is. */
export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="panel px-5 py-8 text-center">
      <h2>{title}</h2>
      <div className="mt-1 text-ink2">{children}</div>
    </div>
  );
}
