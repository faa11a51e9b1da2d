import { type PointerEvent, type ReactNode, type RefObject, useRef } from "react";

import { between } from "./phrases";

/** Where the pointer is over the field: shares of its width and of its height, 0 to 1. */
export interface Share {
  across: number;
  down: number;
}

interface Props<Hold> {
  field: RefObject<HTMLDivElement | null>;
  /** What is moved in it, for who looks for it on the page. */
  name: string;
  label: string;
  className: string;
  changeable: boolean;
  /** The pointer is pressed, on a piece or beside all of them: what does it hold from now on? */
  onTake: (at: Share, piece: number | undefined, target: HTMLElement, stroke: string) => Hold;
  /** It is dragged away from there, more than a hand trembles. */
  onDrag: (held: Hold, at: Share) => void;
  onLetGo?: () => void;
  children: ReactNode;
}

const STILL_PX = 4;

/** A field over the beats whose pieces (elements with `data-piece`) are placed and dragged with the pointer. */
export function PieceField<Hold>({ field, changeable, ...props }: Props<Hold>) {
  const held = useRef<{ hold: Hold; x: number; y: number; moved: boolean } | undefined>(undefined);
  const strokes = useRef(0);

  const take = (event: PointerEvent<HTMLDivElement>) => {
    if (!changeable || event.button !== 0) return;
    const target = event.target as HTMLElement;
    const piece = target.closest<HTMLElement>("[data-piece]")?.dataset.piece;
    const number = piece === undefined ? undefined : Number(piece);
    event.currentTarget.setPointerCapture(event.pointerId);
    const hold = props.onTake(shareOf(event), number, target, `stroke ${++strokes.current}`);
    held.current = { hold, x: event.clientX, y: event.clientY, moved: false };
  };

  const drag = (event: PointerEvent<HTMLDivElement>) => {
    const now = held.current;
    if (!now) return;
    now.moved ||= Math.hypot(event.clientX - now.x, event.clientY - now.y) > STILL_PX;
    if (now.moved) props.onDrag(now.hold, shareOf(event));
  };

  const letGo = () => {
    if (held.current) props.onLetGo?.();
    held.current = undefined;
  };

  return (
    <div
      ref={field}
      role="group"
      aria-label={props.label}
      data-field={props.name}
      className={`relative touch-none border border-rule bg-leaf select-none ${props.className}`}
      style={{ cursor: changeable ? "crosshair" : "default" }}
      onPointerDown={take}
      onPointerMove={drag}
      onPointerUp={letGo}
      onPointerCancel={letGo}
    >
      {props.children}
    </div>
  );
}

function shareOf(event: PointerEvent<HTMLDivElement>): Share {
  const box = event.currentTarget.getBoundingClientRect();
  return {
    across: between((event.clientX - box.left) / box.width, 0, 1),
    down: between((event.clientY - box.top) / box.height, 0, 1),
  };
}
