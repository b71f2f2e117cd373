import type { ReactNode } from "react";
import { ServiceError } from "../api/client";
import { Heading } from "../page";

/** Shown while the first answer is under way; quiet for the first moments. */
export function Loading({ what }: { what: string }) {
  return (
    <p className="p-6 text-ink2" role="status" data-loading>
      Reading {what} …
    </p>
  );
}

/** Shown where there is nothing yet: because it is being read, because nobody answers, or because it failed. */
export function Waiting({ error, what }: { error: Error | null; what: string }) {
  if (error instanceof ServiceError && error.status === 0) {
    return (
      <p className="p-6 text-ink2" role="status" data-loading>
        The service does not answer. {what.charAt(0).toUpperCase() + what.slice(1)} will be read as soon as it does.
      </p>
    );
  }
  return error ? <Failure error={error} /> : <Loading what={what} />;
}

/** An error in the service's own words, with a way on. */
export function Failure({ error }: { error: Error }) {
  return (
    <div className="p-6" role="alert">
      <Heading title="This did not work" />
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
