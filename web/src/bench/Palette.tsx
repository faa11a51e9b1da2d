import { useQuery } from "@tanstack/react-query";

import { client, type Edit, got, type KeptSection, type ModuleType, type Placement } from "../api/client";
import { type Catalogue, isSection } from "../api/patch";
import { refreshSections, useSections } from "../api/queries";
import { Finder } from "../ui/Finder";
import { Panel } from "../ui/Panel";
import { useBench } from "./BenchContext";
import { fitOf, type Wish, wishIn } from "./find";

const LONGEST_NAME = 60;

interface Entry {
  key: string;
  /** Empty in all entries of a type but the first. */
  title: string;
  about: string;
  where: string;
  edits: Edit[];
}

/** Finds a module by its name, its purpose or the words that people use, and the place where it usually goes. */
export function Palette() {
  const { catalogue, state, act } = useBench();
  const places = usePlaces();
  const sections = useSections();
  const find = (typed: string): Entry[] => {
    const { words, name } = asked(typed);
    const types = typesFor(words, catalogue).flatMap((type) =>
      entriesOf(type, places.data?.[type.name] ?? [], words, name),
    );
    const kept = keptEntries(sections.data ?? [], words);
    // what somebody has named is meant by its name; with nothing asked, the types come first
    return words.trim() === "" ? [...types, ...kept] : [...kept, ...types];
  };
  const close = () => state.ask(undefined);
  return (
    <Panel title="Add a module" onClose={close} size="wide">
      {places.error ? (
        <p role="alert" className="p-4 text-warn">
          {places.error.message}
        </p>
      ) : (
        <Finder
          label="What is it to do?"
          placeholder="What is it to do? “filter”, “make it wobble”…; “filter: Bell mouth” names it"
          find={find}
          keyOf={(entry) => entry.key}
          onChoose={(entry) => act(entry.edits)}
          onClose={close}
          nothing={
            places.data ? "No module is called so. Say what it is to do, or clear the field to see all." : "…"
          }
          draw={(entry) => <Row entry={entry} />}
        />
      )}
      <Forgetting sections={sections.data ?? []} />
    </Panel>
  );
}

/** Where each type usually goes, next to what is selected. */
function usePlaces() {
  const { patch, subject, state } = useBench();
  const selected = subject === undefined || isSection(patch, subject) ? null : subject;
  const wish = { patch, selected, line: state.line ?? null };
  return useQuery({
    queryKey: ["placements", JSON.stringify(wish)],
    queryFn: () => got(client.POST("/api/patches/placements", { body: wish })),
    staleTime: Infinity,
    gcTime: 10_000,
  });
}

/** The types that fit what is asked for, the best first. */
const typesFor = (words: string, catalogue: Catalogue): ModuleType[] =>
  [...catalogue.values()]
    .map((type) => ({ type, fit: fitOf(type, words) }))
    .filter(({ fit }) => fit > 0)
    .toSorted((a, b) => b.fit - a.fit)
    // beside what fits well, what only sounds like it is no answer
    .filter(({ fit }, _, [best]) => best === undefined || 2 * fit >= best.fit)
    .map(({ type }) => type);

function Row({ entry }: { entry: Entry }) {
  return (
    <div className="grid grid-cols-[118px_1fr] items-baseline gap-x-3">
      <span className="font-read text-read font-medium">{entry.title}</span>
      <span>
        {entry.where && <b className="font-medium text-this">{entry.where}</b>}
        {entry.about && <span className="block text-work text-soft">{entry.about}</span>}
      </span>
    </div>
  );
}

/** Takes sections off the list: beneath it, since an option of a list holds no button. */
function Forgetting({ sections }: { sections: KeptSection[] }) {
  const forget = async (section: KeptSection) => {
    await got(client.DELETE("/api/sections/{section_id}", { params: { path: { section_id: section.id } } }));
    await refreshSections();
  };
  if (sections.length === 0) return null;
  return (
    <p className="flex flex-wrap gap-x-4 border-t border-rule px-4 py-2 text-work text-soft">
      Sections on your list:
      {sections.map((one) => (
        <button key={one.id} type="button" className="act" onClick={() => void forget(one)}>
          Forget “{one.label}”
        </button>
      ))}
    </p>
  );
}

/** What is looked for, and behind a colon what it is to be called: “sine oscillator: Prime”. */
function asked(typed: string): { words: string; name: string } {
  const [words = "", ...name] = typed.split(":");
  return { words, name: name.join(":").trim().slice(0, LONGEST_NAME) };
}

function entriesOf(type: ModuleType, ways: Placement[], words: string, name: string): Entry[] {
  const wish = wishIn(type, words)?.wish;
  const about = wish ? `With the ${wish.setting} set to ${wish.shown}. ${type.summary}` : type.summary;
  return (words.trim() === "" ? ways.slice(0, 1) : ways).map((way, place) => ({
    key: `${type.name}#${place}`,
    title: place === 0 ? name || type.title : "",
    about: place === 0 ? about : "",
    where: way.words,
    edits: way.edits.map((edit) => wished(edit, type, wish, name)),
  }));
}

/** An edit that puts a module in, with what is wished of it set, and under its name. */
function wished(edit: Edit, type: ModuleType, wish: Wish | undefined, name: string): Edit {
  if ((edit.kind !== "add" && edit.kind !== "insert") || edit.module.type !== type.name) return edit;
  const settings = { ...edit.module.settings, ...(wish && { [wish.setting]: wish.option }) };
  return { ...edit, module: { ...edit.module, settings, ...(name && { label: name }) } };
}

function keptEntries(sections: KeptSection[], words: string): Entry[] {
  const asked = words.trim().toLowerCase();
  return sections
    .filter((section) => section.label.toLowerCase().includes(asked) || "section".startsWith(asked))
    .map((section) => ({
      key: section.id,
      title: section.label,
      about: `A section that you have kept, of ${section.fragment.modules.length} modules.`,
      where: "",
      edits: [{ kind: "paste", fragment: section.fragment }],
    }));
}
