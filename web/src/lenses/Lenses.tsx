import { useState } from "react";

import type { Behind, Chart, LensWish, Patch, Phrase, Plate, Recipe, Render } from "../api/client";
import { type Catalogue, portTitle } from "../api/patch";
import { useLate } from "../ui/useLate";
import { type Action, ActionMenu } from "../ui/ActionMenu";
import { ChartView } from "./ChartView";
import { savePicture, type PictureFormat, saveSound } from "./files";
import { FOLLOW, LensFrame, type TapChoice } from "./LensFrame";
import { hasManyLegends, Legends } from "./Legends";
import { LensSettings } from "./LensSettings";
import { PartialTable } from "./PartialTable";
import { Projector } from "./Projector";
import { StripPanel } from "./StripPanel";
import { type LensesState, MOST_SLOTS } from "./useLenses";
import { lensRule, type Slot } from "./views";

interface Props {
  patch: Patch;
  phrase: Phrase;
  catalogue: Catalogue;
  followed: string | undefined;
  /** The module whose setting a strip is first offered for. */
  selected: string | undefined;
  lenses: LensesState;
  views: (LensWish | undefined)[];
  behind: Behind | undefined;
  render: Render | undefined;
  late: boolean;
  onPlate: ((plate: Omit<Plate, "id">) => void) | undefined;
  onSay: (words: string) => void;
}

export function Lenses(props: Props) {
  const { lenses, views, render } = props;
  const [strip, setStrip] = useState<LensWish>();
  const charts = chartsOf(views, render);
  const shown = lenses.shown === undefined ? undefined : charts[lenses.shown];
  const word = useTapWord(props.patch, props.catalogue);
  return (
    <div
      className="grid min-h-0 flex-1 gap-4"
      style={{ gridTemplateColumns: `repeat(${lenses.slots.length}, minmax(0, 1fr))` }}
    >
      {lenses.slots.map((slot, place) => (
        <OneLens
          key={place}
          {...props}
          slot={slot}
          place={place}
          view={views[place]}
          chart={charts[place]}
          word={word}
          onStrip={setStrip}
        />
      ))}
      {shown && (
        <Projector
          charts={[shown]}
          title={shown.taps.map(word).join(", ")}
          sentence={[shown.sentence, shown.difference].filter(Boolean).join(" ")}
          onClose={() => lenses.show(undefined)}
        />
      )}
      {strip && <StripPanel {...props} view={strip} onClose={() => setStrip(undefined)} />}
    </div>
  );
}

interface OneProps extends Props {
  slot: Slot;
  place: number;
  view: LensWish | undefined;
  chart: Chart | undefined;
  word: (tap: string) => string;
  onStrip: (view: LensWish) => void;
}

function OneLens({ slot, place, view, chart, word, ...props }: OneProps) {
  const { lenses, patch, render } = props;
  const busy = useLate(props.late);
  const several = lensRule(slot.kind).most_taps > 1;
  return (
    <LensFrame
      kind={slot.kind}
      onKind={(kind) => lenses.choose(place, kind)}
      taps={tapChoices(patch, props.catalogue, view?.taps[0] ?? props.followed, word)}
      chosen={slot.taps.filter((tap) => view?.taps.includes(tap))}
      onTaps={(taps) => lenses.change(place, { taps: taps.slice(-lensRule(slot.kind).most_taps) })}
      onPoint={() => lenses.point(place)}
      pointing={lenses.pointing === place}
      several={several}
      chart={chart}
      busy={busy}
      controls={
        <>
          {view && (
            <LensSettings
              view={view}
              seconds={render?.seconds ?? 0}
              onSet={(part) => lenses.set(place, part)}
            />
          )}
          <ActionMenu
            label={`More for the lens ${slot.kind}`}
            actions={actionsOf({ slot, place, view, chart, word, ...props })}
            anchor="top end"
            className="rounded px-1 hover:bg-this/10 data-open:bg-this-wash"
          >
            More…
          </ActionMenu>
        </>
      }
    >
      {chart && slot.table && chart.table ? (
        <PartialTable table={chart.table} />
      ) : (
        chart && (
          <>
            <ChartView chart={chart} name={slot.kind} />
            {hasManyLegends(chart) && (
              <div className="pointer-events-none absolute bottom-14 left-1/2 -translate-x-1/2 rounded-sm bg-leaf/85 px-2">
                <Legends chart={chart} />
              </div>
            )}
          </>
        )
      )}
    </LensFrame>
  );
}

function actionsOf({ slot, place, view, chart, ...props }: OneProps): Action[] {
  const { lenses, patch, phrase, behind, onPlate, onSay } = props;
  const windows: Action[] = [
    ...(lenses.slots.length < MOST_SLOTS ? [{ word: "One more lens", run: lenses.add, apart: true }] : []),
    ...(lenses.slots.length > 1 ? [{ word: "Close this lens", run: () => lenses.close(place) }] : []),
  ];
  if (!view || !chart) return windows;
  const recipe: Recipe = { view, patch, phrase, ...(behind && { behind }) };
  const caption = [chart.sentence, chart.difference].filter(Boolean).join(" ");
  const tap = view.taps[0] ?? "";
  const attempt = (action: Promise<void>) =>
    void action.catch((error: unknown) =>
      onSay(error instanceof Error ? error.message : "That did not work."),
    );
  const picture = (format: PictureFormat) => () =>
    attempt(savePicture(recipe, caption, format, `${view.kind}-${tap.replace(".", "-")}`));
  return [
    { word: "Show large (P)", run: () => lenses.show(place) },
    ...(chart.table
      ? [
          {
            word: slot.table ? "Picture instead of table" : "Table of partials",
            run: () => lenses.change(place, { table: !slot.table }),
          },
        ]
      : []),
    ...(lensRule(view.kind).listens
      ? [{ word: "Point at lines of the map (T)", run: () => lenses.point(place) }]
      : []),
    { word: "Strip over a setting…", run: () => props.onStrip(view) },
    { word: "Freeze, to compare with (J)", run: () => lenses.freeze({ patch, phrase }) },
    ...(onPlate
      ? [
          {
            word: "Keep in the step as a plate",
            run: () => onPlate({ caption, drafted: caption, recipe }),
          },
        ]
      : []),
    { word: "Save as SVG", run: picture("svg"), apart: true },
    { word: "Save as PNG", run: picture("png") },
    { word: "Save the numbers as CSV", run: picture("csv") },
    ...(!lensRule(view.kind).listens
      ? []
      : [
          {
            word: "Save the sound as WAV",
            run: () => attempt(saveSound(patch, phrase, tap, "wav")),
          },
          {
            word: "Save the sound as FLAC",
            run: () => attempt(saveSound(patch, phrase, tap, "flac")),
          },
        ]),
    ...windows,
  ];
}

/** The charts of a render in the places of the views that asked for them. */
function chartsOf(views: (LensWish | undefined)[], render: Render | undefined): (Chart | undefined)[] {
  const asked = views.filter((one) => one !== undefined);
  return views.map((view) => {
    const chart = view && render?.lenses[asked.indexOf(view)];
    return chart?.kind === view?.kind ? chart : undefined;
  });
}

const useTapWord = (patch: Patch, catalogue: Catalogue) => (tap: string) => portTitle(patch, tap, catalogue);

function tapChoices(
  patch: Patch,
  catalogue: Catalogue,
  followed: string | undefined,
  word: (tap: string) => string,
): TapChoice[] {
  const outputs = patch.modules.flatMap((module) =>
    (catalogue.get(module.type)?.outputs ?? []).map((output) => `${module.id}.${output.name}`),
  );
  return [
    { tap: FOLLOW, word: followed === undefined ? "the output" : word(followed) },
    ...outputs.map((tap) => ({ tap, word: word(tap) })),
  ];
}
