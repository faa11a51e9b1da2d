import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from "@headlessui/react";
import type { ReactNode } from "react";

import type { Chart } from "../api/client";
import { Choice } from "../ui/Choice";
import { hasManyLegends, Legends } from "./Legends";
import { type LensKind, KINDS, lensRule } from "../api/rules";

export interface TapChoice {
  tap: string;
  word: string;
}

export const FOLLOW = "follow";

interface Props {
  kind: LensKind;
  onKind: (kind: LensKind) => void;
  taps: TapChoice[];
  /** What is listened to; none where it follows. */
  chosen: string[];
  onTaps: (taps: string[]) => void;
  onPoint: () => void;
  pointing: boolean;
  several: boolean;
  controls: ReactNode;
  chart: Chart | undefined;
  busy: boolean;
  children: ReactNode;
}

/** What is the same around every lens: which it is, what it listens to, its picture and its sentence. */
export function LensFrame(props: Props) {
  const { kind, chart } = props;
  return (
    <figure aria-label={lensRule(kind).title} data-lens={kind} className="flex min-h-0 min-w-0 flex-col">
      <div className="mb-1 flex items-baseline gap-2.5 whitespace-nowrap">
        <Choice
          label="Lens"
          look="word"
          className="shrink-0 font-semibold"
          value={kind}
          options={KINDS.map((one) => ({ value: one, word: lensRule(one).title }))}
          onChange={props.onKind}
        />
        <TapList {...props} />
        {chart && !hasManyLegends(chart) && <Legends chart={chart} brief />}
        <span className="flex-1" />
        {props.controls}
      </div>
      {chart && hasManyLegends(chart) && (
        <div className="mb-1 leading-tight">
          <Legends chart={chart} />
        </div>
      )}
      <div
        className={`relative min-h-0 flex-1 border bg-leaf transition-opacity ${
          props.pointing ? "border-this" : "border-rule"
        } ${props.busy ? "opacity-60" : ""}`}
        aria-busy={props.busy}
      >
        {props.children}
      </div>
      <figcaption
        className="mt-1 h-[3.9em] overflow-y-auto font-read text-note leading-[1.3] italic"
        tabIndex={0}
      >
        {chart?.sentence}{" "}
        {chart?.difference && <span className="text-compared-text">{chart.difference}</span>}
      </figcaption>
    </figure>
  );
}

const OPTIONS =
  "absolute top-full left-0 z-20 max-h-64 w-max overflow-auto rounded border border-firm bg-leaf py-1 shadow-md";
const OPTION = "cursor-pointer px-3 py-1 data-focus:bg-this-wash data-selected:font-semibold";

function TapList({ kind, taps, chosen, onTaps, onPoint, several }: Props) {
  const words = chosen.map((tap) => taps.find((one) => one.tap === tap)?.word ?? tap);
  const shown = words.length > 0 ? words.join(", ") : (taps[0]?.word ?? "");
  const pick = (picked: string[]) => {
    const added = picked.find((tap) => tap !== FOLLOW && !chosen.includes(tap));
    if (picked.includes(FOLLOW) && chosen.length > 0) onTaps([]);
    else if (!several && added !== undefined) onTaps([added]);
    else onTaps(picked.filter((tap) => tap !== FOLLOW));
  };
  return (
    <Listbox
      as="div"
      className="relative shrink-0"
      multiple
      value={chosen.length > 0 ? chosen : [FOLLOW]}
      onChange={pick}
    >
      <ListboxButton
        aria-label={`${lensRule(kind).title} listens to ${shown}`}
        className="max-w-40 truncate border-b border-dotted border-firm text-left hover:border-ink"
      >
        {shown}
      </ListboxButton>
      <ListboxOptions modal={false} className={OPTIONS}>
        {taps.map((one, place) => (
          <ListboxOption key={one.tap} value={one.tap} className={OPTION}>
            {place === 0 ? `what is selected: ${one.word}` : one.word}
          </ListboxOption>
        ))}
        <div className="mt-1 border-t border-rule px-3 pt-1">
          <button type="button" className="act" onClick={onPoint}>
            Point at lines of the map…
          </button>
        </div>
      </ListboxOptions>
    </Listbox>
  );
}
