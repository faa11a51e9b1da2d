import { scaleLinear, scaleLog } from "d3-scale";
import { type PointerEvent, useRef, useState } from "react";

import { client, got, type Module, type ModuleType, type Picture } from "../api/client";
import { rulerOf, settingOf } from "../api/patch";
import { settled, travelOf } from "../ui/travel";
import { useLatest } from "./useLatest";

interface Props {
  module: Module;
  type: ModuleType;
  before: Module | undefined;
  onSet: ((name: string, value: number) => void) | undefined;
}

type Handle = Picture["handles"][number];

const WIDTH = 260;
const HEIGHT = 72;

const ask = (wish: { module: Module }) => got(client.POST("/api/patches/picture", { body: wish }));
const nothing = () => undefined;

/** What the module does by itself, drawn by running it; its handles can be dragged. */
export function ModulePicture({ module, type, before, onSet }: Props) {
  const pictured = type.picture !== "";
  const now = useLatest("picture", pictured ? { module } : undefined, ask, nothing);
  const changed = before && JSON.stringify(before.settings) !== JSON.stringify(module.settings);
  const earlier = useLatest("picture", pictured && changed ? { module: before } : undefined, ask, nothing);
  const [held, setHeld] = useState<Picture>();
  const start = useRef<{ y: number; place: number } | undefined>(undefined);
  const picture = now.data;
  if (!pictured || !picture || picture.xs.length === 0) return null;

  // while a handle is dragged the axes stay, so that it stays under the pointer
  const axes = held ?? picture;
  const x = (axes.x_log ? scaleLog : scaleLinear)([axes.x_low, axes.x_high], [0, WIDTH]).clamp(true);
  const y = scaleLinear([axes.y_low, axes.y_high], [HEIGHT, 0]).clamp(true);
  const path = (one: Picture) =>
    one.xs
      .map((at, place) => `${place === 0 ? "M" : "L"}${x(at).toFixed(1)} ${y(one.ys[place] ?? 0).toFixed(1)}`)
      .join("");

  const drag = (event: PointerEvent<SVGElement>, handle: Handle) => {
    const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
    if (!box || !onSet) return;
    const setTo = (name: string | null, wanted: (place: (value: number) => number) => number) => {
      const ruler = name === null ? undefined : rulerOf(type, name);
      if (name !== null && ruler) onSet(name, settled(ruler, wanted(travelOf(ruler).place)));
    };
    const across = ((event.clientX - box.left) / box.width) * WIDTH;
    setTo(handle.moves_x, () => x.invert(across) - handle.origin_x);
    const up = start.current && (start.current.y - event.clientY) / box.height;
    const rulerY = handle.moves_y === null ? undefined : rulerOf(type, handle.moves_y);
    if (up !== undefined && start.current && rulerY) {
      const place = Math.min(1, Math.max(0, start.current.place + up));
      setTo(handle.moves_y, () => travelOf(rulerY).value(place));
    }
  };

  const begin = (event: PointerEvent<SVGElement>, handle: Handle) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    setHeld(picture);
    const ruler = handle.moves_y === null ? undefined : rulerOf(type, handle.moves_y);
    const value = handle.moves_y === null ? 0 : Number(settingOf(module, type, handle.moves_y));
    start.current = { y: event.clientY, place: ruler ? travelOf(ruler).place(value) : 0 };
  };

  return (
    <figure
      aria-label={`Picture of the ${type.title.toLowerCase()}`}
      data-picture={picture.kind}
      className="mt-1.5"
    >
      <svg
        viewBox={`-4 -4 ${WIDTH + 8} ${HEIGHT + 8}`}
        role="img"
        aria-label={picture.sentence}
        className="w-full touch-none border-y border-rule bg-leaf"
      >
        {axes.y_low < 0 && axes.y_high > 0 && (
          <path d={`M0 ${y(0)}H${WIDTH}`} stroke="var(--color-rule)" strokeWidth="1" />
        )}
        {changed && earlier.data && (
          <path d={path(earlier.data)} fill="none" stroke="var(--color-compared)" strokeWidth="1.4" />
        )}
        <path
          d={path(picture)}
          fill="none"
          stroke="var(--color-this)"
          strokeWidth="2"
          strokeLinejoin="round"
        />
        {onSet &&
          picture.handles.map((handle) => (
            <circle
              key={handle.words}
              data-handle={handle.words}
              cx={x(handle.x)}
              cy={y(handle.y)}
              r="5.5"
              fill="var(--color-leaf)"
              stroke="var(--color-this)"
              strokeWidth="2"
              className={cursorOf(handle)}
              onPointerDown={(event) => begin(event, handle)}
              onPointerMove={(event) => {
                if (event.currentTarget.hasPointerCapture(event.pointerId)) drag(event, handle);
              }}
              onPointerUp={() => {
                setHeld(undefined);
                start.current = undefined;
              }}
            >
              <title>{handle.words}</title>
            </circle>
          ))}
      </svg>
    </figure>
  );
}

const cursorOf = (handle: Handle) =>
  handle.moves_x && handle.moves_y ? "cursor-move" : handle.moves_x ? "cursor-ew-resize" : "cursor-ns-resize";
