import { useQuery } from "@tanstack/react-query";

import {
  client,
  type Edit,
  type Ends,
  got,
  type KeptSection,
  type ModuleType,
  type Patch,
  type Placement,
} from "../api/client";
import type { Catalogue } from "../api/patch";
import { refreshSections, useSections } from "../api/queries";
import { Finder } from "../ui/Finder";
import { Panel } from "../ui/Panel";
import { fitOf } from "./find";

interface Props {
  patch: Patch;
  catalogue: Catalogue;
  selected: string | undefined;
  line: Ends | undefined;
  onChoose: (edits: Edit[]) => void;
  onClose: () => void;
}

interface Entry {
  key: string;
  /** Empty in all entries of a type but the first. */
  title: string;
  about: string;
  where: string;
  edits: Edit[];
  kept?: KeptSection;
}

/** Finds a module by its name, its purpose or the words that people use, and the place where it usually goes. */
export function Palette({ patch, catalogue, selected, line, onChoose, onClose }: Props) {
  const wish = { patch, selected: selected ?? null, line: line ?? null };
  const places = useQuery({
    queryKey: ["placements", JSON.stringify(wish)],
    queryFn: () => got(client.POST("/api/patches/placements", { body: wish })),
    staleTime: Infinity,
    gcTime: 10_000,
  });
  const sections = useSections();

  const find = (words: string): Entry[] => {
    const types = [...catalogue.values()]
      .map((type) => ({ type, fit: fitOf(type, words) }))
      .filter(({ type, fit }) => fit > 0 && places.data?.[type.name] !== undefined)
      .toSorted((a, b) => b.fit - a.fit);
    const brief = words.trim() === "";
    return [
      ...types.flatMap(({ type }) => entriesOf(type, places.data?.[type.name] ?? [], brief)),
      ...keptEntries(sections.data ?? [], words),
    ];
  };

  return (
    <Panel title="Add a module" onClose={onClose} size="wide">
      {places.error ? (
        <p role="alert" className="p-4 text-warn">
          {places.error.message}
        </p>
      ) : (
        <Finder
          label="What is it to do?"
          placeholder="What is it to do? “filter”, “make it wobble”, “louder”…"
          find={find}
          keyOf={(entry) => entry.key}
          onChoose={(entry) => onChoose(entry.edits)}
          onClose={onClose}
          nothing={
            places.data ? "No module is called so. Say what it is to do, or clear the field to see all." : "…"
          }
          draw={(entry) => <Row entry={entry} />}
        />
      )}
    </Panel>
  );
}

function Row({ entry }: { entry: Entry }) {
  return (
    <div className="grid grid-cols-[118px_1fr_auto] items-baseline gap-x-3">
      <span className="font-read text-[15.5px] font-medium">{entry.title}</span>
      <span>
        {entry.where && <b className="font-medium text-this">{entry.where}</b>}
        {entry.about && <span className="block text-sm text-soft">{entry.about}</span>}
      </span>
      {entry.kept && <Forget section={entry.kept} />}
    </div>
  );
}

function Forget({ section }: { section: KeptSection }) {
  const forget = async () => {
    await got(client.DELETE("/api/sections/{section_id}", { params: { path: { section_id: section.id } } }));
    await refreshSections();
  };
  return (
    <button
      type="button"
      tabIndex={-1}
      className="text-sm text-soft underline hover:text-ink"
      onClick={(event) => {
        event.stopPropagation();
        void forget();
      }}
    >
      Forget
    </button>
  );
}

function entriesOf(type: ModuleType, ways: Placement[], brief: boolean): Entry[] {
  return (brief ? ways.slice(0, 1) : ways).map((way, place) => ({
    key: `${type.name}#${place}`,
    title: place === 0 ? type.title : "",
    about: place === 0 ? type.summary : "",
    where: way.words,
    edits: way.edits,
  }));
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
      kept: section,
    }));
}
