import { useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useNavigate } from "react-router";
import { signOut, who } from "../api/client";
import { type Theme, useTheme } from "../ui/theme";

const NEXT: Record<Theme, Theme> = { auto: "light", light: "dark", dark: "auto" };

interface Props {
  title?: string;
  middle?: ReactNode;
  onMenu?: () => void;
  onTables?: () => void;
  onKeys?: () => void;
  onWorking?: () => void;
  workingShown?: boolean;
}

const linkClass = "min-h-8 px-2 hover:bg-lit";

export function TopBar({ title, middle, onMenu, onTables, onKeys, onWorking, workingShown }: Props) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const me = useQuery({ queryKey: ["who"], queryFn: who });
  const [theme, setTheme] = useTheme();
  const leave = async () => {
    client.setQueryData(["who"], await signOut());
    client.removeQueries({ queryKey: ["jobs"] });
    navigate("/");
  };
  return (
    <header className="no-print flex min-h-12 flex-wrap items-center gap-x-3 border-hair border-b px-3">
      {onMenu && (
        <button type="button" className={`${linkClass} lg:hidden`} onClick={onMenu}>
          circuits
        </button>
      )}
      <button type="button" className={linkClass} onClick={() => navigate("/")}>
        Jobs
      </button>
      {title && <span className="truncate font-semibold max-sm:hidden">{title}</span>}
      {middle}
      <span className="ml-auto flex flex-wrap items-center">
        {onWorking && (
          <button type="button" className={linkClass} aria-pressed={workingShown} onClick={onWorking}>
            {workingShown ? "hide" : "show"} working <kbd className="key">w</kbd>
          </button>
        )}
        {onTables && (
          <button type="button" className={linkClass} onClick={onTables}>
            Tables
          </button>
        )}
        {onKeys && (
          <button type="button" className={linkClass} onClick={onKeys}>
            Keys <kbd className="key">?</kbd>
          </button>
        )}
        <button type="button" className={linkClass} onClick={() => setTheme(NEXT[theme])}>
          theme: {theme}
        </button>
        <button type="button" className={linkClass} onClick={() => void leave()} title={me.data?.firm}>
          sign out
        </button>
      </span>
    </header>
  );
}
