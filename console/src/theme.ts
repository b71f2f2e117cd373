/** Light, dark, or what the system says; kept in this browser. */
export type Theme = "system" | "light" | "dark";

const key = "wexo-theme";

export function theme(): Theme {
  const kept = localStorage.getItem(key);
  return kept === "light" || kept === "dark" ? kept : "system";
}

export function applyTheme(next: Theme = theme()) {
  if (next === "system") localStorage.removeItem(key);
  else localStorage.setItem(key, next);
  const dark = next === "dark" || (next === "system" && matchMedia("(prefers-color-scheme: dark)").matches);
  document.documentElement.dataset.theme = dark ? "dark" : "light";
}

matchMedia("(prefers-color-scheme: dark)").addEventListener("change", () => applyTheme());
