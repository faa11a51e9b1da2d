import { Dialog, DialogPanel } from "@headlessui/react";
import { type ReactNode, useEffect, useState } from "react";
import { useLocation, useNavigate } from "react-router";

import { portTitle } from "../api/patch";
import { LargeCharts } from "../lenses/LargeCharts";
import { chartsOf, sentencesOf } from "../lenses/shown";
import { lensRule } from "../api/rules";
import { useIsDark } from "../ui/ground";
import { type Projected as Page, useRoom } from "../ui/room";
import { useBench } from "./BenchContext";
import { BenchMap } from "./BenchMap";

const ZOOM = 1.9;

/** A step for those in the back row: the text, the map or a lens, one at a time and in large type. */
export function Projected({ asked }: { asked: Page }) {
  const { lenses, told, sound } = useBench();
  const { put } = useRoom();
  const dark = useIsDark();
  const [turned, setTurned] = useState(false);
  const step = useSteps();
  const pages: Page[] = [...(told ? (["text"] as const) : []), "map", ...lenses.slots.keys()];
  const page = pages.includes(asked) ? asked : (pages[0] ?? "map");
  const go = (by: number) => {
    const next = pages[pages.indexOf(page) + by];
    if (next !== undefined) put({ projected: next });
    else if (step(by)) put({ projected: by > 0 ? pages[0] : pages.at(-1) });
  };
  const close = () => put({ projected: undefined });
  useKeysAnywhere({
    ArrowRight: () => go(1),
    PageDown: () => go(1),
    ArrowLeft: () => go(-1),
    PageUp: () => go(-1),
    g: () => setTurned(!turned),
    p: close,
    " ": () => sound.toggle?.(),
  });
  return (
    <Dialog open onClose={close} aria-label="The projector’s view" className="relative z-50" data-projector>
      <DialogPanel
        data-ground={dark !== turned ? "dark" : "light"}
        className="projected fixed inset-0 flex flex-col bg-paper text-ink"
      >
        <div className="min-h-0 flex-1" data-page={page}>
          {page === "text" && <div className="flex h-full px-[6vw] py-4">{told?.text}</div>}
          {page === "map" && <BenchMap zoom={ZOOM} />}
          {typeof page === "number" && <LensPage place={page} />}
        </div>
        <Ways pages={pages} page={page} onGo={go} onClose={close} onTurn={() => setTurned(!turned)} />
      </DialogPanel>
    </Dialog>
  );
}

/** Hears keys wherever the focus is: from step to step it is nowhere for a moment, and no key gets lost then. */
function useKeysAnywhere(keys: Record<string, () => void>): void {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const act = keys[event.key.length === 1 ? event.key.toLowerCase() : event.key];
      const operating = event.key === " " && event.target instanceof HTMLButtonElement;
      if (!act || operating || event.defaultPrevented) return;
      event.preventDefault();
      act();
    };
    document.addEventListener("keydown", press);
    return () => document.removeEventListener("keydown", press);
  });
}

/** Goes to the step before or behind, if there is one. */
function useSteps(): (by: number) => boolean {
  const { told } = useBench();
  const { pathname, search } = useLocation();
  const navigate = useNavigate();
  return (by) => {
    const number = (told?.number ?? 0) + by;
    if (!told || number < 1 || number > told.count) return false;
    void navigate(`${pathname.split("/").slice(0, 3).join("/")}/${number}${search}`);
    return true;
  };
}

function LensPage({ place }: { place: number }) {
  const { patch, catalogue, seen, now } = useBench();
  const chart = chartsOf(seen.views, now.data)[place];
  if (!chart) return <Waited />;
  const heard = chart.taps.map((tap) => portTitle(patch, tap, catalogue)).join(", ");
  return <LargeCharts charts={[chart]} title={heard} sentence={sentencesOf(chart)} />;
}

const Waited = () => <p className="grid h-full place-items-center font-read text-soft">Computing…</p>;

interface WaysProps {
  pages: Page[];
  page: Page;
  onGo: (by: number) => void;
  onClose: () => void;
  onTurn: () => void;
}

/** Where one is in the lesson, and where one can go. */
function Ways({ pages, page, onGo, onClose, onTurn }: WaysProps) {
  const { told, lenses } = useBench();
  const { put } = useRoom();
  const word = (one: Page) =>
    typeof one === "number" ? lensRule(lenses.slots[one]?.kind).title : WORDS[one];
  return (
    <nav
      aria-label="Through the step"
      className="flex shrink-0 flex-wrap items-center gap-x-5 gap-y-1 border-t border-rule px-6 py-2"
    >
      {told && (
        <span className="whitespace-nowrap text-soft">
          {told.number} of {told.count}
        </span>
      )}
      {pages.map((one) => (
        <button
          key={one}
          type="button"
          aria-current={one === page ? "page" : undefined}
          className={`border-b-3 ${one === page ? "border-ink font-semibold" : "border-transparent"}`}
          onClick={() => put({ projected: one })}
        >
          {word(one)}
        </button>
      ))}
      <span className="flex-1" />
      <Way words="Light or dark (G)" onClick={onTurn}>
        ◐
      </Way>
      <Way words="Back (left arrow)" onClick={() => onGo(-1)}>
        ←
      </Way>
      <Way words="On (right arrow)" onClick={() => onGo(1)}>
        →
      </Way>
      <Way words="Close (P, Escape)" onClick={onClose}>
        Close
      </Way>
    </nav>
  );
}

const WORDS = { text: "Text", map: "Map" };

const Way = ({ words, onClick, children }: { words: string; onClick: () => void; children: ReactNode }) => (
  <button type="button" aria-label={words} title={words} className="px-2" onClick={onClick}>
    {children}
  </button>
);
