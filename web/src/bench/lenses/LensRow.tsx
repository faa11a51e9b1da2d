import { type CSSProperties, useState } from "react";

import type { Chart, LensWish, Patch, Recipe } from "../../api/client";
import { type Catalogue, portTitle } from "../../api/patch";
import { type BenchView, useBench } from "../BenchContext";
import { type Action, ActionMenu } from "../../ui/ActionMenu";
import { Guarded } from "../../ui/Guarded";
import { useRoom } from "../../ui/room";
import { useLate } from "../../ui/useLate";
import { ChartView } from "../../lenses/ChartView";
import { savePicture, type PictureFormat, saveSound } from "../../lenses/files";
import { FOLLOW, LensFrame, type TapChoice } from "../../lenses/LensFrame";
import { LensSettings } from "../../lenses/LensSettings";
import { PartialTable } from "../../lenses/PartialTable";
import { chartsOf, sentencesOf } from "../../lenses/shown";
import { MOST_SLOTS } from "../../lenses/store";
import { StripPanel } from "./StripPanel";
import { type Slot } from "../../lenses/views";
import { lensRule } from "../../api/rules";
import { messageOf } from "../../api/messageOf";

/** The lenses, side by side. */
export function LensRow() {
  const { lenses, seen, now } = useBench();
  const [strip, setStrip] = useState<LensWish>();
  const charts = chartsOf(seen.views, now.data);
  return (
    <div
      className="lenses grid min-h-0 flex-1 grid-cols-[repeat(var(--lenses),minmax(0,1fr))] gap-4 narrow:auto-rows-[minmax(300px,1fr)] narrow:grid-cols-1 narrow:overflow-y-auto"
      style={{ "--lenses": lenses.slots.length } as CSSProperties}
    >
      {lenses.slots.map((slot, place) => (
        <Guarded key={place} what={`The lens ${slot.kind}`} until={[slot, charts[place]]}>
          <OneLens
            slot={slot}
            place={place}
            view={seen.views[place]}
            chart={charts[place]}
            onStrip={setStrip}
          />
        </Guarded>
      ))}
      {strip && <StripPanel view={strip} onClose={() => setStrip(undefined)} />}
    </div>
  );
}

interface OneProps {
  slot: Slot;
  place: number;
  view: LensWish | undefined;
  chart: Chart | undefined;
  onStrip: (view: LensWish) => void;
}

function OneLens(props: OneProps) {
  const { slot, place, view, chart } = props;
  const { patch, catalogue, lenses, seen, now } = useBench();
  const busy = useLate(now.behind);
  const most = lensRule(slot.kind).most_taps;
  return (
    <LensFrame
      kind={slot.kind}
      onKind={(kind) => lenses.choose(place, kind)}
      taps={tapChoices(patch, catalogue, view?.taps[0] ?? seen.followed)}
      chosen={slot.taps.filter((tap) => view?.taps.includes(tap))}
      onTaps={(taps) => lenses.change(place, { taps: taps.slice(-most) })}
      onPoint={() => lenses.point(place)}
      pointing={lenses.pointing === place}
      several={most > 1}
      chart={chart}
      busy={busy}
      controls={<Controls {...props} />}
    >
      {chart && <Picture slot={slot} chart={chart} />}
    </LensFrame>
  );
}

function Picture({ slot, chart }: { slot: Slot; chart: Chart }) {
  if (slot.table && chart.table) return <PartialTable table={chart.table} />;
  return <ChartView chart={chart} name={slot.kind} />;
}

function Controls(props: OneProps) {
  const { slot, place, view } = props;
  const bench = useBench();
  return (
    <>
      {view && <LensSettings view={view} onSet={(part) => bench.lenses.set(place, part)} />}
      <ActionMenu
        label={`More for the lens ${slot.kind}`}
        actions={actionsOf(bench, props)}
        anchor="top end"
        className="rounded px-1 hover:bg-this/10 data-open:bg-this-wash"
      >
        More…
      </ActionMenu>
    </>
  );
}

/** What can be done with a lens. */
function actionsOf(bench: BenchView, { slot, place, view, chart, onStrip }: OneProps): Action[] {
  const { lenses } = bench;
  return [
    ...(view && chart ? actionsOnChart(bench, { slot, place, view, chart, onStrip }) : []),
    ...(lenses.slots.length < MOST_SLOTS ? [{ word: "One more lens", run: lenses.add, apart: true }] : []),
    ...(lenses.slots.length > 1 ? [{ word: "Close this lens", run: () => lenses.close(place) }] : []),
  ];
}

type Shown = OneProps & { view: LensWish; chart: Chart };

function actionsOnChart(bench: BenchView, shown: Shown): Action[] {
  const { lenses, patch, phrase, seen, onPlate } = bench;
  const { slot, place, view, chart } = shown;
  const { listens } = lensRule(view.kind);
  const { moment } = seen;
  const recipe: Recipe = { view, patch, phrase, moment, ...(seen.behind && { behind: seen.behind }) };
  const caption = sentencesOf(chart);
  const otherWay = slot.table ? "Picture instead of table" : "Table of partials";
  return [
    { word: "Show large (P)", run: () => useRoom.getState().put({ projected: place }) },
    ...(chart.table ? [{ word: otherWay, run: () => lenses.change(place, { table: !slot.table }) }] : []),
    ...(listens ? [{ word: "Point at lines of the map (T)", run: () => lenses.point(place) }] : []),
    { word: "Strip over a setting…", run: () => shown.onStrip(view) },
    { word: "Freeze, to compare with (J)", run: () => lenses.freeze({ patch, phrase }) },
    ...(onPlate
      ? [{ word: "Keep in the step as a plate", run: () => onPlate({ caption, drafted: caption, recipe }) }]
      : []),
    ...savingOf(bench, recipe, caption),
  ];
}

/** Ways to save a picture, its numbers and its sound as files. */
function savingOf({ patch, phrase, state }: BenchView, recipe: Recipe, caption: string): Action[] {
  const { view } = recipe;
  const tap = view.taps[0] ?? "";
  const attempt = (action: Promise<void>) =>
    void action.catch((error: unknown) => state.say(messageOf(error)));
  const picture = (format: PictureFormat) => () =>
    attempt(savePicture(recipe, caption, format, `${view.kind}-${tap.replace(".", "-")}`));
  const sound = (format: "wav" | "flac") => () => attempt(saveSound(patch, phrase, tap, format));
  return [
    { word: "Save as SVG", run: picture("svg"), apart: true },
    { word: "Save as PNG", run: picture("png") },
    { word: "Save the numbers as CSV", run: picture("csv") },
    ...(lensRule(view.kind).listens
      ? [
          { word: "Save the sound as WAV", run: sound("wav") },
          { word: "Save the sound as FLAC", run: sound("flac") },
        ]
      : []),
  ];
}

function tapChoices(patch: Patch, catalogue: Catalogue, followed: string | undefined): TapChoice[] {
  const word = (tap: string) => portTitle(patch, tap, catalogue);
  const outputs = patch.modules.flatMap((module) =>
    (catalogue.get(module.type)?.outputs ?? []).map((output) => `${module.id}.${output.name}`),
  );
  return [
    { tap: FOLLOW, word: followed === undefined ? "the output" : word(followed) },
    ...outputs.map((tap) => ({ tap, word: word(tap) })),
  ];
}
