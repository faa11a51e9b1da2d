import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect, useRef, useState } from "react";

import { type Chart, client, got, type Patch, type Phrase, type Plate } from "../api/client";
import { ChartPicture } from "../lenses/ChartView";
import { type PictureFormat, savePicture } from "../lenses/files";
import { Projector } from "../lenses/Projector";
import { Failure } from "../ui/Failure";
import { type Action, ActionMenu } from "../ui/ActionMenu";
import { messageOf } from "../api/messageOf";

interface Writing {
  patch: Patch;
  phrase: Phrase;
  onChange: (plates: Plate[]) => void;
}

interface Props {
  plates: Plate[];
  /** The plates whose step has moved on since they were made. */
  outdated: string[];
  onOpen: (plate: Plate) => void;
  writing?: Writing;
}

/** The pictures that are kept in a step. */
export function Plates({ plates, outdated, onOpen, writing }: Props) {
  const [trouble, setTrouble] = useState<string>();
  const end = useRef<HTMLElement>(null);
  const count = useRef(plates.length);
  useEffect(() => {
    if (plates.length > count.current) end.current?.lastElementChild?.scrollIntoView({ block: "nearest" });
    count.current = plates.length;
  }, [plates.length]);
  if (plates.length === 0) return null;
  const replace = (id: string, change: globalThis.Partial<Plate>) =>
    writing?.onChange(plates.map((one) => (one.id === id ? { ...one, ...change } : one)));
  const refresh = async (plate: Plate) => {
    if (!writing) return;
    const { patch, phrase } = writing;
    try {
      replace(plate.id, await got(client.POST("/api/charts/refreshed", { body: { plate, patch, phrase } })));
      setTrouble(undefined);
    } catch (error) {
      setTrouble(messageOf(error, "The plate could not be made anew."));
    }
  };
  const move = (place: number, by: number) => {
    const moved = plates.toSpliced(place, 1);
    const plate = plates[place];
    if (plate) writing?.onChange(moved.toSpliced(place + by, 0, plate));
  };
  return (
    <section ref={end} aria-label="Pictures of this step" className="mt-4">
      <Failure said={trouble} className="mb-2" />
      {plates.map((plate, place) => (
        <PlateFigure
          key={plate.id}
          plate={plate}
          number={place + 1}
          outdated={outdated.includes(plate.id)}
          onOpen={() => onOpen(plate)}
          onCaption={writing && ((caption) => replace(plate.id, { caption }))}
          onRefresh={writing && (() => void refresh(plate))}
          actions={
            writing
              ? [
                  ...(place > 0 ? [{ word: "Move up", run: () => move(place, -1), apart: true }] : []),
                  ...(place < plates.length - 1 ? [{ word: "Move down", run: () => move(place, 1) }] : []),
                  {
                    word: "Take it out",
                    run: () => writing.onChange(plates.filter((one) => one.id !== plate.id)),
                  },
                ]
              : []
          }
        />
      ))}
    </section>
  );
}

/** The plates of a step with one more, under a name that is free. */
export function withPlate(plates: Plate[], plate: Omit<Plate, "id">): Plate[] {
  const used = new Set(plates.map((one) => one.id));
  const free = Array.from({ length: used.size + 1 }, (_, n) => `plate-${n + 1}`).find((id) => !used.has(id));
  return [...plates, { ...plate, id: free ?? "plate" }];
}

interface FigureProps {
  plate: Plate;
  number: number;
  outdated: boolean;
  onOpen: () => void;
  onCaption: ((caption: string) => void) | undefined;
  onRefresh: (() => void) | undefined;
  actions: Action[];
}

function PlateFigure({ plate, number, outdated, onOpen, onCaption, onRefresh, actions }: FigureProps) {
  const [large, setLarge] = useState(false);
  const [trouble, setTrouble] = useState<string>();
  const { recipe, caption } = plate;
  const drawn = useQuery({
    queryKey: ["plate", recipe],
    staleTime: Infinity,
    queryFn: () => got(client.POST("/api/charts", { body: recipe })),
  });
  const charts = drawn.data?.charts;
  const save = (format: PictureFormat) => () =>
    void savePicture(recipe, caption, format, plate.id).catch((error: unknown) =>
      setTrouble(messageOf(error, "The file could not be made.")),
    );
  return (
    <figure tabIndex={-1} data-plate={plate.id} data-outdated={outdated} className="mb-4">
      <Small number={number} outdated={outdated} onLarge={charts && (() => setLarge(true))}>
        <Drawn charts={charts} trouble={drawn.error?.message} />
      </Small>
      <div className="mt-1 flex items-baseline gap-2 text-note">
        <b className="font-semibold">Picture {number}</b>
        {outdated && <span className="text-warn">The step has moved on.</span>}
        <span className="flex-1" />
        {outdated && onRefresh && (
          <button type="button" className="act font-semibold" onClick={onRefresh}>
            Refresh
          </button>
        )}
        <ActionMenu
          label={`More for picture ${number}`}
          actions={[
            { word: "Show large", run: () => setLarge(true) },
            { word: "Open as a lens", run: onOpen },
            { word: "Save as SVG", run: save("svg"), apart: true },
            { word: "Save as PNG", run: save("png") },
            { word: "Save the numbers as CSV", run: save("csv") },
            ...actions,
          ]}
          anchor="top end"
          className="rounded px-1 hover:bg-this/10 data-open:bg-this-wash"
        >
          More…
        </ActionMenu>
      </div>
      <Failure said={trouble} />
      <Caption caption={caption} number={number} onChange={onCaption} />
      {large && charts && (
        <Projector
          charts={charts}
          title={`Picture ${number}`}
          sentence={caption}
          onClose={() => setLarge(false)}
        />
      )}
    </figure>
  );
}

interface SmallProps {
  number: number;
  outdated: boolean;
  onLarge: (() => void) | undefined;
  children: ReactNode;
}

/** A picture as it stands in the text; pressed, it is shown large. */
function Small({ number, outdated, onLarge, children }: SmallProps) {
  return (
    <div className={`relative h-40 border bg-leaf ${outdated ? "border-dashed border-warn" : "border-rule"}`}>
      {children}
      <button
        type="button"
        aria-label={`Picture ${number}, large`}
        className="absolute inset-0 hover:bg-this/5"
        disabled={!onLarge}
        onClick={onLarge}
      />
    </div>
  );
}

function Drawn({ charts, trouble }: { charts: Chart[] | undefined; trouble: string | undefined }) {
  if (!charts)
    return (
      <p className="grid h-full place-items-center px-4 text-center font-read text-soft italic">
        {trouble ?? "Drawing…"}
      </p>
    );
  return (
    <div className="flex h-full">
      {charts.map((chart, place) => (
        <div key={place} className="flex min-w-0 flex-1 flex-col">
          <div className="min-h-0 flex-1">
            <ChartPicture chart={chart} zoom={0.85} writing={charts.length > 1 ? "nothing" : "all"} />
          </div>
          {chart.title && <div className="pb-0.5 text-center text-note">{chart.title}</div>}
        </div>
      ))}
    </div>
  );
}

function Caption({
  caption,
  number,
  onChange,
}: {
  caption: string;
  number: number;
  onChange: FigureProps["onCaption"];
}) {
  const look = "font-read text-work leading-[1.4] italic";
  if (!onChange) return <figcaption className={look}>{caption}</figcaption>;
  return (
    <figcaption>
      <textarea
        aria-label={`Caption of picture ${number}`}
        rows={2}
        maxLength={2000}
        className={`field-sizing-content w-full resize-none rounded-sm bg-transparent hover:bg-this/5 focus:bg-leaf ${look}`}
        value={caption}
        onChange={(event) => onChange(event.target.value)}
      />
    </figcaption>
  );
}
