import { announce } from "./page";

/** Puts a text on the clipboard and tells so. */
export async function copy(text: string, what: string) {
  try {
    await navigator.clipboard.writeText(text);
  } catch {
    // Without encryption, beyond this machine, a browser has no clipboard of that kind.
    const box = document.createElement("textarea");
    box.value = text;
    box.style.position = "fixed";
    document.body.append(box);
    const had = document.activeElement;
    box.select();
    document.execCommand("copy");
    box.remove();
    if (had instanceof HTMLElement) had.focus();
  }
  announce(`${what} copied`);
}
