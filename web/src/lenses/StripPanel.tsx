import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import {
  client,
  got,
  type LensWish,
  type Patch,
  type Phrase,
  type Plate,
  type Recipe,
  type Value,
} from "../api/client";
import { type Catalogue, titleOf } from "../api/patch";
import { Panel } from "../ui/Panel";
import { Segments } from "../ui/Segments";
import { ChartPicture } from "./ChartView";
import { savePicture } from "./files";
import { Projector } from "./Projector";

interface Props {
  view: LensWish;
  patch: Patch;
  phrase: Phrase;
  catalogue: Catalogue;
  selected: string | undefined;
  onPlate: ((plate: Omit<Plate, "id">) => void) | undefined;
  onSay: (words: string) => void;
  onClose: () => void;
}

interface Choice {
  module: string;
  setting: string;
  words: string;
}

/** One lens over several values of one setting: what the setting does, at a glance. */
export function StripPanel({ view, patch, phrase, catalogue, selected, onPlate, onSay, onClose }: Props) {
  const choices = choicesOf(patch, catalogue, selected);
  const [chosen, setChosen] = useState(choices[0]);
  const [count, setCount] = useState(5);
  const [large, setLarge] = useState(false);
  const drawn = useStrip(view, patch, phrase, chosen, count);
  const { recipe, charts, sentence } = drawn.data ?? {};
  const keep = () => {
    if (!recipe || sentence === undefined) return;
    onPlate?.({ caption: sentence, drafted: sentence, recipe });
    onClose();
  };
  const save = (format: "svg" | "png" | "csv") =>
    recipe &&
    void savePicture(recipe, sentence ?? "", format, `strip-${chosen?.setting ?? ""}`).catch(
      (error: unknown) => onSay(error instanceof Error ? error.message : "That did not work."),
    );
  return (
    <Panel title="What one setting does" onClose={onClose} size="page">
      <div className="flex flex-wrap items-baseline gap-x-6 px-4 pt-1">
        <label className="flex items-baseline gap-2">
          Setting
          <select
            className="rounded border border-firm bg-paper px-2 py-1"
            value={choices.findIndex((one) => one === chosen || same(one, chosen))}
            onChange={(event) => setChosen(choices[Number(event.target.value)])}
          >
            {choices.map((one, place) => (
              <option key={`${one.module}.${one.setting}`} value={place}>
                {one.words}
              </option>
            ))}
          </select>
        </label>
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
        {(["svg", "png", "csv"] as const).map((format) => (
          <button
            key={format}
            type="button"
            className="button"
            disabled={!recipe}
            onClick={() => save(format)}
          >
            {format.toUpperCase()}
          </button>
        ))}
        {onPlate && (
          <button type="button" className="button-strong" disabled={!recipe} onClick={keep}>
            Keep as a plate
          </button>
        )}
      </div>
      <div
        className={`flex gap-2 px-4 pt-3 ${drawn.isFetching ? "opacity-60" : ""}`}
        aria-busy={drawn.isFetching}
        data-strip
      >
        {charts?.map((chart, place) => (
          <div key={place} className="min-w-0 flex-1">
            <div className="text-center font-semibold">{chart.title}</div>
            <div className="h-64">
              <ChartPicture chart={chart} zoom={0.85} />
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
      <p className="px-4 pt-1 pb-4 font-read text-[15.5px] italic">{sentence}</p>
      {large && charts && (
        <Projector
          charts={charts}
          title={chosen?.words ?? ""}
          sentence={sentence ?? ""}
          onClose={() => setLarge(false)}
        />
      )}
    </Panel>
  );
}

const same = (a: Choice, b: Choice | undefined) => a.module === b?.module && a.setting === b.setting;

function useStrip(view: LensWish, patch: Patch, phrase: Phrase, chosen: Choice | undefined, count: number) {
  return useQuery({
    queryKey: ["strip", view, patch, phrase, chosen, count],
    enabled: chosen !== undefined,
    placeholderData: (previous) => previous,
    queryFn: async () => {
      const { module, setting } = chosen ?? { module: "", setting: "" };
      const body = { patch, module, setting, count };
      const values: Value[] = (await got(client.POST("/api/charts/values", { body }))).values;
      const recipe: Recipe = { view, patch, phrase, strip: { module, setting, values } };
      return { recipe, ...(await got(client.POST("/api/charts", { body: recipe }))) };
    },
  });
}

/** The settings that can be led through values, those of the selected module first. */
function choicesOf(patch: Patch, catalogue: Catalogue, selected: string | undefined): Choice[] {
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
      words: `${titleOf(module, catalogue)}: ${setting}`,
    }));
  });
}
