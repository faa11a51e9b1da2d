import { type KeyboardEvent, type PointerEvent, useState } from "react";

import { foldFoot, USUAL_FOOT, useRoom } from "./room";

const STEP = 24;
const FOLDED = 90;
const MOST = 900;

const held = (foot: number) => (foot < FOLDED ? 0 : Math.min(MOST, Math.round(foot)));

/** Divides the room between the map and what stands beneath it: dragged, moved by the arrow keys, folded by Enter. */
export function Divider() {
  const { foot, put } = useRoom();
  const [grip, setGrip] = useState<{ y: number; foot: number }>();
  const drag = (event: PointerEvent) => {
    if (grip) put({ foot: held(grip.foot + grip.y - event.clientY) });
  };
  const key = (event: KeyboardEvent) => {
    if (event.key === "ArrowUp") put({ foot: held(Math.max(foot, FOLDED) + STEP) });
    else if (event.key === "ArrowDown") put({ foot: held(foot - STEP) });
    else if (event.key === "Enter") foldFoot();
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div
      role="separator"
      tabIndex={0}
      aria-label="Between the map and what stands beneath it"
      aria-orientation="horizontal"
      aria-valuenow={foot}
      aria-valuemin={0}
      aria-valuemax={MOST}
      title="Drag to divide the room; twice to have it as usual"
      className="absolute inset-x-0 -top-1 z-10 h-2 cursor-row-resize touch-none hover:bg-this/20 narrow:hidden"
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        setGrip({ y: event.clientY, foot });
      }}
      onPointerMove={drag}
      onPointerUp={() => setGrip(undefined)}
      onDoubleClick={() => put({ foot: USUAL_FOOT })}
      onKeyDown={key}
    />
  );
}
