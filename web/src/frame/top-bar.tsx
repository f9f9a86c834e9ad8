import { useQueryClient } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { type ReactNode, useState } from "react";
import { Link, useNavigate } from "react-router";
import { signOut } from "../api/client";
import { usePaths } from "../parts/paths";
import { takeIn, useWho } from "../parts/person";
import { waiting } from "../sync/shelf";
import { siteWaiting } from "../sync/site/shelf";
import { Ask } from "../ui/ask";
import { Letters } from "../ui/letters";
import { type Theme, useTheme } from "../ui/theme";
import { TOP_BAR } from "./words";

const NEXT: Record<Theme, Theme> = { auto: "light", light: "dark", dark: "auto" };

interface Props {
  title?: string;
  middle?: ReactNode;
  onMenu?: () => void;
  /** Whether a job is open: its tables and its history are then one step away. */
  inJob?: boolean;
  onKeys?: () => void;
  onPalette?: () => void;
  onWorking?: () => void;
  workingShown?: boolean;
}

const linkClass = "inline-flex min-h-8 items-center gap-1 px-2 hover:bg-lit";

interface BarItem {
  title: string;
  keys?: string;
  hint?: string;
  pressed?: boolean;
  to?: string;
  run?: () => void;
}

function Item({ item }: { item: BarItem }) {
  const inside = (
    <>
      {item.title} {item.keys && <kbd className="key">{item.keys}</kbd>}
    </>
  );
  if (item.to !== undefined)
    return (
      <Link className={linkClass} to={item.to}>
        {inside}
      </Link>
    );
  return (
    <button type="button" className={linkClass} aria-pressed={item.pressed} title={item.hint} onClick={item.run}>
      {inside}
    </button>
  );
}

export function TopBar({ title, middle, onMenu, inJob, onKeys, onPalette, onWorking, workingShown }: Props) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const me = useWho();
  const [theme, setTheme] = useTheme();
  const paths = usePaths();
  const [waits, setWaits] = useState(0);
  const [more, setMore] = useState(false);
  const ask = async () => {
    const person = me.data?.person ?? "";
    const there = await Promise.all([waiting(person), siteWaiting(person)]);
    const count = there.flatMap((by) => [...by.values()]).reduce((sum, n) => sum + n, 0);
    if (count > 0) setWaits(count);
    else await leave();
  };
  const leave = async () => {
    takeIn(client, await signOut());
    navigate("/");
  };
  const items: BarItem[] = [
    ...(onPalette ? [{ title: "Go to", keys: "Ctrl K", run: onPalette }] : []),
    ...(onWorking
      ? [{ title: `${workingShown ? "hide" : "show"} working`, keys: "w", run: onWorking, pressed: workingShown }]
      : []),
    ...(inJob
      ? [
          { title: "What if", to: paths.whatIf },
          { title: "History", to: paths.history },
          { title: "Tables", to: paths.tables },
        ]
      : []),
    ...(onKeys ? [{ title: "Keys", keys: "?", run: onKeys }] : []),
    ...(inJob
      ? []
      : [
          { title: "Practice", to: "/practice" },
          { title: "Your own tables", to: "/packs" },
          { title: "Your firm", to: "/firm" },
          { title: "Your account", to: "/you" },
        ]),
    { title: `theme: ${theme}`, run: () => setTheme(NEXT[theme]) },
    { title: "sign out", run: () => void ask(), hint: me.data?.firm },
  ];
  return (
    <header className="no-print flex min-h-12 shrink-0 items-center gap-x-3 border-hair border-b px-3 py-0.5 max-sm:flex-wrap">
      {onMenu && (
        <button type="button" className={`${linkClass} lg:hidden`} onClick={onMenu}>
          menu
        </button>
      )}
      <Link className={linkClass} to="/">
        {TOP_BAR.jobs}
      </Link>
      {title && <span className="min-w-0 truncate font-semibold max-sm:hidden">{title}</span>}
      {middle}
      <span className="ml-auto flex shrink-0 items-center max-xl:hidden">
        {inJob && <Letters />}
        {items.map((item) => (
          <Item key={item.title} item={item} />
        ))}
      </span>
      <Popover.Root open={more} onOpenChange={setMore}>
        <Popover.Trigger asChild>
          <button type="button" className={`${linkClass} ml-auto xl:hidden`}>
            more
          </button>
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            align="end"
            sideOffset={4}
            aria-label={TOP_BAR.more}
            className="z-20 flex min-w-48 flex-col rounded-sm border border-hair bg-paper p-2 text-ink shadow-float"
            onClick={() => setMore(false)}
          >
            {items.map((item) => (
              <Item key={item.title} item={item} />
            ))}
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
      <Ask
        open={waits > 0}
        title={TOP_BAR.signOutChanges}
        say={`${waits} ${waits === 1 ? "change or entry waits" : "changes and entries wait"} in this browser. They stay here under your name and are sent when you next sign in on this browser.`}
        yes="sign out"
        no="stay"
        onYes={() => void leave()}
        onClose={() => setWaits(0)}
      />
    </header>
  );
}
