import { useEffect, useState } from "react";
import { remembered } from "./remembered";

export type Theme = "auto" | "light" | "dark";
const KEY = "mellow-span/theme";

/** Light, dark, or as the system has it; kept in this browser. */
export function useTheme() {
  const [theme, setTheme] = useState<Theme>(() => (remembered.get(KEY) as Theme | null) ?? "auto");
  useEffect(() => {
    if (theme === "auto") delete document.documentElement.dataset.theme;
    else document.documentElement.dataset.theme = theme;
    remembered.set(KEY, theme);
  }, [theme]);
  return [theme, setTheme] as const;
}
