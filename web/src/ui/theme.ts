export type Theme = "light" | "dark" | "system";

const KEY = "dastur-theme";

export const theme = (): Theme => (localStorage.getItem(KEY) as Theme | null) ?? "system";

export function setTheme(next: Theme): void {
  localStorage.setItem(KEY, next);
  applyTheme();
}

export function applyTheme(): void {
  const dark = theme() === "dark" || (theme() === "system" && matchMedia("(prefers-color-scheme: dark)").matches);
  document.documentElement.dataset.theme = dark ? "dark" : "light";
}
