import { useEffect, useState } from "react";

export type Theme = "auto" | "light" | "dark";
const KEY = "mellow-span/theme";

/** Light, dark, or as the system has it; kept in this browser. */
export function useTheme() {
  const [theme, setTheme] = useState<Theme>(() => (localStorage.getItem(KEY) as Theme | null) ?? "auto");
  useEffect(() => {
    if (theme === "auto") delete document.documentElement.dataset.theme;
    else document.documentElement.dataset.theme = theme;
    localStorage.setItem(KEY, theme);
  }, [theme]);
  return [theme, setTheme] as const;
}
