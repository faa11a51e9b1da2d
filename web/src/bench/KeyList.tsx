import { Panel } from "../ui/Panel";
import { type Command, GROUPS, keyText } from "./commands";

const PLAYING = [
  ["Space", "Play and stop the phrase"],
  ["L", "Play round and round"],
  ["B", "Switch between this step and what it is compared with"],
];
const WRITING = [["F", "With capture on: finish this step and begin the next"]];
const ON_THE_MAP = [
  ["Arrows", "Go from card to card; with Shift, select them too"],
  ["Tab", "Go on to the settings of the selected module"],
];

/** Every key of the bench. */
export function KeyList({ commands, onClose }: { commands: Command[]; onClose: () => void }) {
  const groups = Object.entries(GROUPS) as [Command["group"], string][];
  return (
    <Panel title="Keys" onClose={onClose} size="wide">
      <div
        className="columns-2 gap-8 overflow-y-auto px-4 pt-2 pb-4"
        tabIndex={0}
        aria-label="Keys of the bench"
      >
        <Group title="Play" rows={PLAYING} />
        <Group title="On the map" rows={ON_THE_MAP} />
        {commands.some((one) => one.group === "build") && <Group title="Write" rows={WRITING} />}
        {groups.map(([group, title]) => (
          <Group
            key={group}
            title={title}
            rows={commands
              .filter((one) => one.group === group)
              .map((one) => [keyText(one.keys[0] ?? ""), one.words])}
          />
        ))}
      </div>
    </Panel>
  );
}

function Group({ title, rows }: { title: string; rows: string[][] }) {
  if (rows.length === 0) return null;
  return (
    <section className="mb-3 break-inside-avoid">
      <h3 className="font-semibold text-soft">{title}</h3>
      <dl className="grid grid-cols-[120px_1fr] gap-x-3 text-note">
        {rows.map(([key, words]) => (
          <div key={words} className="col-span-full grid grid-cols-subgrid border-t border-rule py-0.5">
            <dt>
              <kbd className="font-work font-medium">{key}</kbd>
            </dt>
            <dd>{words}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}
