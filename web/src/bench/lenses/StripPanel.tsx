import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { client, got, type LensWish, type Patch, type Recipe, type Value } from "../../api/client";
import { type Catalogue, spoken, titleOf } from "../../api/patch";
import { useBench } from "../BenchContext";
import type { Touched } from "../store";
import { Choice } from "../../ui/Choice";
import { Panel } from "../../ui/Panel";
import { Segments } from "../../ui/Segments";
import { ChartPicture } from "../../lenses/ChartView";
import { savePicture } from "../../lenses/files";
import { Projector } from "../../lenses/Projector";
import { messageOf } from "../../api/messageOf";

/** By how much the first picture is wider: the axis that all share stands beside it. */
const FIRST = 1.22;

interface Led extends Touched {
  words: string;
  /** The module, under whose name it stands in the list. */
  group: string;
}

/** One lens over several values of one setting: what the setting does, at a glance. */
export function StripPanel({ view, onClose }: { view: LensWish; onClose: () => void }) {
  const { patch, catalogue, subject, state } = useBench();
  const { touched } = state;
  const choices = choicesOf(patch, catalogue, subject);
  const [chosen, setChosen] = useState(choices.find((one) => touched && same(touched, one)) ?? choices[0]);
  const [count, setCount] = useState(5);
  const [large, setLarge] = useState(false);
  const drawn = useStrip(view, chosen, count);
  const charts = drawn.data?.charts;
  return (
    <Panel title="What one setting does" onClose={onClose} size="page">
      <div className="flex flex-wrap items-baseline gap-x-6 px-4 pt-1">
        <SettingChoice choices={choices} chosen={chosen} onChoose={setChosen} />
        <Segments
          label="pictures"
          value={count}
          options={[3, 5, 7].map((value) => ({ value, word: `${value}` }))}
          onChange={setCount}
        />
        <span className="flex-1" />
        <button type="button" className="button" disabled={!charts} onClick={() => setLarge(true)}>
          Show large
        </button>
        <Keeping strip={drawn.data} setting={chosen?.setting ?? ""} onKept={onClose} />
      </div>
      <div
        className={`flex gap-2 px-4 pt-3 ${drawn.isFetching ? "opacity-60" : ""}`}
        aria-busy={drawn.isFetching}
        data-strip
      >
        {charts?.map((chart, place) => (
          <div key={place} className="min-w-0 flex-1" style={{ flexGrow: place === 0 ? FIRST : 1 }}>
            <div className="text-center font-semibold">{chart.title}</div>
            <div className="h-64">
              <ChartPicture chart={chart} zoom={0.85} writing={place === 0 ? "all" : "across"} />
            </div>
          </div>
        ))}
        {!charts && (
          <p className="m-auto h-64 pt-24 font-read text-soft italic">
            {drawn.error?.message ??
              (chosen ? "Drawing…" : "There is no setting that could be led through values.")}
          </p>
        )}
      </div>
      <p className="px-4 pt-1 pb-4 font-read text-read italic">{drawn.data?.sentence}</p>
      {large && charts && (
        <Projector
          charts={charts}
          title={chosen?.words ?? ""}
          sentence={drawn.data?.sentence ?? ""}
          onClose={() => setLarge(false)}
        />
      )}
    </Panel>
  );
}

interface SettingChoiceProps {
  choices: Led[];
  chosen: Led | undefined;
  onChoose: (choice: Led | undefined) => void;
}

function SettingChoice({ choices, chosen, onChoose }: SettingChoiceProps) {
  return (
    <div className="flex items-baseline gap-2">
      Setting
      <Choice
        label="Setting"
        value={choices.findIndex((one) => one === chosen || same(one, chosen))}
        options={choices.map((one, value) => ({ value, word: one.words, group: one.group }))}
        onChange={(place) => onChoose(choices[place])}
      />
    </div>
  );
}

interface KeepingProps {
  strip: { recipe: Recipe; sentence: string } | undefined;
  setting: string;
  onKept: () => void;
}

/** Saves a strip as a file, or keeps it in the step. */
function Keeping({ strip, setting, onKept }: KeepingProps) {
  const { state, onPlate } = useBench();
  const save = (format: "svg" | "png" | "csv") =>
    strip &&
    void savePicture(strip.recipe, strip.sentence, format, `strip-${setting}`).catch((error: unknown) =>
      state.say(messageOf(error)),
    );
  const keep = () => {
    if (!strip) return;
    onPlate?.({ caption: strip.sentence, drafted: strip.sentence, recipe: strip.recipe });
    onKept();
  };
  return (
    <>
      {(["svg", "png", "csv"] as const).map((format) => (
        <button key={format} type="button" className="button" disabled={!strip} onClick={() => save(format)}>
          {format.toUpperCase()}
        </button>
      ))}
      {onPlate && (
        <button type="button" className="button-strong" disabled={!strip} onClick={keep}>
          Keep as a plate
        </button>
      )}
    </>
  );
}

const same = (a: Touched, b: Touched | undefined) => a.module === b?.module && a.setting === b.setting;

function useStrip(view: LensWish, chosen: Led | undefined, count: number) {
  const { patch, phrase, seen } = useBench();
  const { moment } = seen;
  return useQuery({
    queryKey: ["strip", view, patch, phrase, moment, chosen, count],
    enabled: chosen !== undefined,
    placeholderData: (previous) => previous,
    queryFn: async () => {
      const { module, setting } = chosen ?? { module: "", setting: "" };
      const body = { patch, module, setting, count };
      const values: Value[] = (await got(client.POST("/api/charts/values", { body }))).values;
      const recipe: Recipe = { view, patch, phrase, moment, strip: { module, setting, values } };
      return { recipe, ...(await got(client.POST("/api/charts", { body: recipe }))) };
    },
  });
}

/** The settings that can be led through values, those of the selected module first. */
function choicesOf(patch: Patch, catalogue: Catalogue, selected: string | undefined): Led[] {
  const modules = patch.modules.toSorted((a, b) => Number(b.id === selected) - Number(a.id === selected));
  return modules.flatMap((module) => {
    const type = catalogue.get(module.type);
    const names = [
      ...(type?.inputs ?? []).filter((one) => one.ruler).map((one) => one.name),
      ...(type?.numbers ?? []).map((one) => one.name),
      ...(type?.choices ?? []).filter((one) => one.options.length > 2).map((one) => one.name),
    ];
    return names.map((setting) => ({
      module: module.id,
      setting,
      words: `${titleOf(module, catalogue)}: ${spoken(setting)}`,
      group: titleOf(module, catalogue),
    }));
  });
}
