import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";

import type { LensWish, RulerType } from "../api/client";
import { NumberEntry } from "../ui/NumberEntry";
import { Segments } from "../ui/Segments";

interface Props {
  view: LensWish;
  onSet: (part: globalThis.Partial<LensWish>) => void;
}

/** How a lens shows what it shows. */
export function LensSettings({ view, onSet }: Props) {
  return (
    <Popover className="relative">
      <PopoverButton
        aria-label={`Set the lens ${view.kind}`}
        className="rounded px-1 hover:bg-this/10 data-open:bg-this-wash"
      >
        Set…
      </PopoverButton>
      <PopoverPanel
        anchor="top end"
        className="z-30 flex w-[390px] max-w-[100vw] flex-col gap-1 rounded border border-firm bg-leaf p-3 shadow-md"
        focus
      >
        {view.kind === "wave" && <WaveSettings view={view} onSet={onSet} />}
        {view.kind === "spectrum" && <SpectrumSettings view={view} onSet={onSet} />}
        {view.kind === "sweep" && <SweepSettings view={view} onSet={onSet} />}
        {view.kind === "level" && <LevelSettings view={view} onSet={onSet} />}
        {view.kind === "frequency" && <FrequencySettings view={view} onSet={onSet} />}
        {view.kind === "response" && <ResponseSettings view={view} onSet={onSet} />}
      </PopoverPanel>
    </Popover>
  );
}

type Of<K extends LensWish["kind"]> = Extract<LensWish, { kind: K }>;
interface Part<K extends LensWish["kind"]> {
  view: Of<K>;
  onSet: Props["onSet"];
}

const YES_NO = [
  { value: 1, word: "on" },
  { value: 0, word: "off" },
];

function WaveSettings({ view, onSet }: Part<"wave">) {
  return (
    <>
      <Segments
        label="shows"
        value={view.cycles}
        options={[
          { value: 1, word: "1 cycle" },
          { value: 3, word: "3" },
          { value: 8, word: "8" },
          { value: 24, word: "24" },
          { value: 0, word: "all of it" },
        ]}
        onChange={(cycles) => onSet({ cycles })}
      />
      <Segments
        label="taps"
        value={view.stacked ? 1 : 0}
        options={[
          { value: 0, word: "overlaid" },
          { value: 1, word: "stacked" },
        ]}
        onChange={(on) => onSet({ stacked: on === 1 })}
      />
    </>
  );
}

const HERTZ: RulerType = { low: 1, high: 24_000, default: 20, unit: "Hz", step: 1, travel: "log" };
const DECIBELS: RulerType = { low: -140, high: -12, default: -84, unit: "dB", step: 6, travel: "linear" };

function Span({ view, onSet }: Part<"spectrum"> | Part<"sweep">) {
  const [low, high] = [view.low_hz, view.high_hz];
  return (
    <>
      <Segments
        label="scale"
        value={view.log ? 1 : 0}
        options={[
          { value: 1, word: "logarithmic" },
          { value: 0, word: "linear" },
        ]}
        onChange={(on) => onSet({ log: on === 1 })}
      />
      <Row word="from">
        <NumberEntry
          label="Lowest frequency"
          ruler={{ ...HERTZ, high: high / 1.1 }}
          value={low}
          onCommit={(low_hz) => onSet({ low_hz })}
        />
        <span className="mx-2 text-soft">to</span>
        <NumberEntry
          label="Highest frequency"
          ruler={{ ...HERTZ, low: low * 1.1 }}
          value={high}
          onCommit={(high_hz) => onSet({ high_hz })}
        />
      </Row>
      <Row word="down to">
        <NumberEntry
          label="Lowest level"
          ruler={DECIBELS}
          value={view.floor_db}
          onCommit={(floor_db) => onSet({ floor_db })}
        />
      </Row>
    </>
  );
}

function SpectrumSettings({ view, onSet }: Part<"spectrum">) {
  return (
    <>
      <Span view={view} onSet={onSet} />
      <Segments
        label="of"
        value={view.over}
        options={[
          { value: "passage", word: "the passage that says most" },
          { value: "mean", word: "mean of all" },
          { value: "peak", word: "peaks held" },
        ]}
        onChange={(over) => onSet({ over })}
      />
      <Segments
        label="window"
        value={view.window}
        options={[
          { value: "blackman-harris", word: "Blackman-Harris" },
          { value: "hann", word: "Hann" },
          { value: "hamming", word: "Hamming" },
          { value: "flat-top", word: "flat-top" },
          { value: "rectangular", word: "rectangular" },
        ]}
        onChange={(window) => onSet({ window })}
      />
      <Segments
        label="smoothed"
        value={view.smooth}
        options={[
          { value: 0, word: "not" },
          { value: 12, word: "1/12" },
          { value: 6, word: "1/6" },
          { value: 3, word: "1/3" },
        ]}
        unit="octave"
        onChange={(smooth) => onSet({ smooth })}
      />
      <Segments
        label="theory"
        value={view.theory ? 1 : 0}
        options={YES_NO}
        onChange={(on) => onSet({ theory: on === 1 })}
      />
    </>
  );
}

function SweepSettings({ view, onSet }: Part<"sweep">) {
  return (
    <>
      <Segments
        label="shows"
        value={view.show}
        options={[
          { value: "levels", word: "levels" },
          { value: "pitch", word: "pitch alone" },
        ]}
        onChange={(show) => onSet({ show })}
      />
      <Segments
        label="sharp in"
        value={view.resolution}
        options={[
          { value: "time", word: "time" },
          { value: "balanced", word: "both" },
          { value: "pitch", word: "frequency" },
        ]}
        onChange={(resolution) => onSet({ resolution })}
      />
      <Span view={view} onSet={onSet} />
    </>
  );
}

function LevelSettings({ view, onSet }: Part<"level">) {
  return (
    <>
      <Segments
        label="scale"
        value={view.scale}
        options={[
          { value: "fitting", word: "as it fits" },
          { value: "decibel", word: "dB" },
          { value: "linear", word: "linear" },
        ]}
        onChange={(scale) => onSet({ scale })}
      />
      <Segments
        label="gate"
        value={view.gate ? 1 : 0}
        options={YES_NO}
        onChange={(on) => onSet({ gate: on === 1 })}
      />
    </>
  );
}

function FrequencySettings({ view, onSet }: Part<"frequency">) {
  return (
    <>
      <Segments
        label="shows"
        value={view.cycles}
        options={[
          { value: 1, word: "1 cycle" },
          { value: 3, word: "3" },
          { value: 8, word: "8" },
          { value: 0, word: "all of it" },
        ]}
        onChange={(cycles) => onSet({ cycles })}
      />
      <Segments
        label="phase"
        value={view.phase ? 1 : 0}
        options={YES_NO}
        onChange={(on) => onSet({ phase: on === 1 })}
      />
    </>
  );
}

function ResponseSettings({ view, onSet }: Part<"response">) {
  return (
    <>
      <Segments
        label="theory"
        value={view.theory ? 1 : 0}
        options={YES_NO}
        onChange={(on) => onSet({ theory: on === 1 })}
      />
      <Segments
        label="phase"
        value={view.phase ? 1 : 0}
        options={YES_NO}
        onChange={(on) => onSet({ phase: on === 1 })}
      />
    </>
  );
}

function Row({ word, children }: { word: string; children: React.ReactNode }) {
  return (
    <div className="mt-1.5 flex items-baseline gap-2">
      <span className="w-16 shrink-0 first-letter:uppercase">{word}</span>
      <div className="flex items-baseline">{children}</div>
    </div>
  );
}
