import { type KeyboardEvent, type PointerEvent, type ReactNode, useState } from "react";
import { remembered } from "../ui/remembered";
import { SIDE } from "./words";

const KEY = "mellow-span/side-width";
const LEAST = 190;
const MOST = 460;
const USUAL = 240;

const held = () => {
  const kept = Number(remembered.get(KEY));
  return kept >= LEAST && kept <= MOST ? kept : USUAL;
};

/** The column at the left: its edge can be dragged, or moved with the arrows. */
export function Side({ shown, children }: { shown: boolean; children: ReactNode }) {
  const [width, setWidth] = useState(held);
  const take = (to: number) => {
    const now = Math.round(Math.min(MOST, Math.max(LEAST, to)));
    setWidth(now);
    remembered.set(KEY, String(now));
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const step = event.key === "ArrowRight" ? 16 : event.key === "ArrowLeft" ? -16 : 0;
    if (step === 0) return;
    event.preventDefault();
    take(width + step);
  };
  const onPointerMove = (event: PointerEvent<HTMLElement>) => {
    if (event.currentTarget.hasPointerCapture(event.pointerId))
      take(event.clientX - (event.currentTarget.parentElement?.getBoundingClientRect().left ?? 0));
  };
  return (
    <aside
      aria-label={SIDE.viewsCircuits}
      style={{ width }}
      className={`no-print relative shrink-0 border-hair border-r bg-paper max-lg:absolute max-lg:bottom-0 max-lg:z-10 max-lg:top-12 max-lg:min-w-72 ${shown ? "" : "max-lg:hidden"}`}
    >
      <div className="h-full overflow-auto">{children}</div>
      <div
        role="separator"
        tabIndex={0}
        aria-label={SIDE.widthColumn}
        aria-orientation="vertical"
        aria-valuemin={LEAST}
        aria-valuemax={MOST}
        aria-valuenow={width}
        title={SIDE.dragMakeColumn}
        className="-right-1 absolute inset-y-0 w-2 cursor-col-resize touch-none hover:bg-lit max-lg:hidden"
        onKeyDown={onKeyDown}
        onDoubleClick={() => take(USUAL)}
        onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
        onPointerMove={onPointerMove}
      />
    </aside>
  );
}
