import type { ReactNode } from "react";
import { Link } from "react-router";
import type { Word as Known } from "../glossary.gen";
import { useKeepLens } from "../lens";

/** A word that leads to what it means. */
export function Word({ id, children }: { id: Known; children: ReactNode }) {
  const keep = useKeepLens();
  return (
    <Link
      to={`${keep("/words")}#${id}`}
      className="text-inherit underline decoration-control decoration-dotted underline-offset-[3px] hover:decoration-solid"
    >
      {children}
    </Link>
  );
}
