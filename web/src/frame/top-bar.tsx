import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Link, useNavigate } from "react-router";
import { signOut, who } from "../api/client";
import { usePaths } from "../parts/paths";
import { waiting } from "../sync/shelf";
import { Ask } from "../ui/ask";
import { type Theme, useTheme } from "../ui/theme";

const NEXT: Record<Theme, Theme> = { auto: "light", light: "dark", dark: "auto" };

interface Props {
  title?: string;
  middle?: ReactNode;
  onMenu?: () => void;
  /** Whether a job is open: its tables and its history are then one step away. */
  inJob?: boolean;
  onKeys?: () => void;
  onWorking?: () => void;
  workingShown?: boolean;
}

const linkClass = "inline-flex min-h-8 items-center gap-1 px-2 hover:bg-lit";

export function TopBar({ title, middle, onMenu, inJob, onKeys, onWorking, workingShown }: Props) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const me = useQuery({ queryKey: ["who"], queryFn: who });
  const [theme, setTheme] = useTheme();
  const paths = usePaths();
  const [waits, setWaits] = useState(0);
  const ask = async () => {
    const there = await waiting(me.data?.person ?? "");
    const count = [...there.values()].reduce((sum, n) => sum + n, 0);
    if (count > 0) setWaits(count);
    else await leave();
  };
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
      <Link className={linkClass} to="/">
        Jobs
      </Link>
      {title && <span className="truncate font-semibold max-sm:hidden">{title}</span>}
      {middle}
      <span className="ml-auto flex flex-wrap items-center">
        {onWorking && (
          <button type="button" className={linkClass} aria-pressed={workingShown} onClick={onWorking}>
            {workingShown ? "hide" : "show"} working <kbd className="key">w</kbd>
          </button>
        )}
        {inJob && (
          <>
            <Link className={linkClass} to={paths.history}>
              History
            </Link>
            <Link className={linkClass} to={paths.tables}>
              Tables
            </Link>
          </>
        )}
        {onKeys && (
          <button type="button" className={linkClass} onClick={onKeys}>
            Keys <kbd className="key">?</kbd>
          </button>
        )}
        <button type="button" className={linkClass} onClick={() => setTheme(NEXT[theme])}>
          theme: {theme}
        </button>
        <button type="button" className={linkClass} onClick={() => void ask()} title={me.data?.firm}>
          sign out
        </button>
        <Ask
          open={waits > 0}
          title="Sign out with unsent edits?"
          say={`${waits} ${waits === 1 ? "edit waits" : "edits wait"} in this browser. They stay here under your name, are sent for nobody else, and go out when you sign in again at this browser.`}
          yes="sign out"
          no="stay"
          onYes={() => void leave()}
          onClose={() => setWaits(0)}
        />
      </span>
    </header>
  );
}
