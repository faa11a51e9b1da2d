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
const HEIGHT = 46;

const ask = (wish: { module: Module }) => got(client.POST("/api/patches/picture", { body: wish }));
const nothing = () => undefined;

/** What the module does by itself, drawn by running it; its handles can be dragged. */
export function ModulePicture({ module, type, before, onSet }: Props) {
  const pictured = type.picture !== "";
  const now = useLatest("picture", pictured ? { module } : undefined, ask, nothing);
  const changed = before && JSON.stringify(before.settings) !== JSON.stringify(module.settings);
  const earlier = useLatest("picture", pictured && changed ? { module: before } : undefined, ask, nothing);
  const [held, setHeld] = useState<Picture>();
  const picture = now.data;
  if (!pictured || !picture || picture.xs.length === 0) return null;
  // while a handle is dragged the axes stay, so that it stays under the pointer
  const scales = scalesOf(held ?? picture);
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
        {scales.crossed && (
          <path d={`M0 ${scales.y(0)}H${WIDTH}`} stroke="var(--color-rule)" strokeWidth="1" />
        )}
        {changed && earlier.data && (
          <path
            d={pathOf(earlier.data, scales)}
            fill="none"
            stroke="var(--color-compared)"
            strokeWidth="1.4"
          />
        )}
        <path
          d={pathOf(picture, scales)}
          fill="none"
          stroke="var(--color-this)"
          strokeWidth="2"
          strokeLinejoin="round"
        />
        {onSet &&
          picture.handles.map((handle) => (
            <Grip
              key={handle.words}
              {...{ handle, module, type, scales, onSet }}
              onHold={(holding) => setHeld(holding ? picture : undefined)}
            />
          ))}
      </svg>
    </figure>
  );
}

/** From the picture's units to its pixels, and whether it shows what is below nothing. */
function scalesOf(axes: Picture) {
  return {
    x: (axes.x_log ? scaleLog : scaleLinear)([axes.x_low, axes.x_high], [0, WIDTH]).clamp(true),
    y: scaleLinear([axes.y_low, axes.y_high], [HEIGHT, 0]).clamp(true),
    crossed: axes.y_low < 0 && axes.y_high > 0,
  };
}

type Scales = ReturnType<typeof scalesOf>;

const pathOf = ({ xs, ys }: Picture, { x, y }: Scales) =>
  xs
    .map((at, place) => `${place === 0 ? "M" : "L"}${x(at).toFixed(1)} ${y(ys[place] ?? 0).toFixed(1)}`)
    .join("");

interface GripProps {
  handle: Handle;
  module: Module;
  type: ModuleType;
  scales: Scales;
  onSet: (name: string, value: number) => void;
  onHold: (holding: boolean) => void;
}

/** A handle: across it sets one setting by where it is, and up and down another by how far it is moved. */
function Grip({ handle, module, type, scales, onSet, onHold }: GripProps) {
  const start = useRef<{ y: number; place: number } | undefined>(undefined);
  const across = handle.moves_x === null ? undefined : rulerOf(type, handle.moves_x);
  const upright = handle.moves_y === null ? undefined : rulerOf(type, handle.moves_y);

  const begin = (event: PointerEvent<SVGElement>) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    onHold(true);
    const value = handle.moves_y === null ? 0 : Number(settingOf(module, type, handle.moves_y));
    start.current = { y: event.clientY, place: upright ? travelOf(upright).place(value) : 0 };
  };
  const drag = (event: PointerEvent<SVGElement>) => {
    const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
    if (!box || !event.currentTarget.hasPointerCapture(event.pointerId)) return;
    if (across && handle.moves_x !== null) {
      const at = ((event.clientX - box.left) / box.width) * WIDTH;
      onSet(handle.moves_x, settled(across, scales.x.invert(at) - handle.origin_x));
    }
    if (upright && handle.moves_y !== null && start.current) {
      const place = start.current.place + (start.current.y - event.clientY) / box.height;
      const value = travelOf(upright).value(Math.min(1, Math.max(0, place)));
      onSet(handle.moves_y, settled(upright, value));
    }
  };
  const end = () => {
    onHold(false);
    start.current = undefined;
  };
  return (
    <circle
      data-handle={handle.words}
      cx={scales.x(handle.x)}
      cy={scales.y(handle.y)}
      r="5.5"
      fill="var(--color-leaf)"
      stroke="var(--color-this)"
      strokeWidth="2"
      className={cursorOf(handle)}
      onPointerDown={begin}
      onPointerMove={drag}
      onPointerUp={end}
    >
      <title>{handle.words}</title>
    </circle>
  );
}

const cursorOf = (handle: Handle) =>
  handle.moves_x && handle.moves_y ? "cursor-move" : handle.moves_x ? "cursor-ew-resize" : "cursor-ns-resize";
