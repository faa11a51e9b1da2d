import type { Section } from "../api/client";
import { portTitle, titleOf } from "../api/patch";
import { useBench } from "./BenchContext";
import { Home } from "./Home";
import { Title } from "./Title";

/** A section: what is in it, and the names of its inputs and outputs. */
export function SectionInspector({ section }: { section: Section }) {
  const { patch, catalogue, edit } = useBench();
  const titles = patch.modules
    .filter((one) => section.modules.includes(one.id))
    .map((one) => titleOf(one, catalogue));
  const change = (part: { label?: string; open?: boolean; port?: string; name?: string }) =>
    edit?.([{ kind: "section", section: section.id, name: "", ...part }]);
  return (
    <section aria-label={`The section ${section.label}`} className="px-4 py-3">
      <Title
        key={section.label}
        label={section.label}
        title={section.label}
        onRename={edit && ((label) => change({ label }))}
      />
      <p className="text-soft">
        <b className="font-medium text-ink">Section.</b> {titles.join(", ")}.
      </p>
      <Home module={section.id} />
      <Ports title="Inputs" ports={section.inputs} onName={edit && change} />
      <Ports title="Outputs" ports={section.outputs} onName={edit && change} />
      {edit && (
        <div className="mt-4 flex gap-2">
          <button type="button" className="button" onClick={() => change({ open: !section.open })}>
            {section.open ? "Close" : "Open"}
          </button>
          <button
            type="button"
            className="button"
            onClick={() => edit([{ kind: "take-apart", section: section.id }])}
          >
            Take apart
          </button>
        </div>
      )}
    </section>
  );
}

interface PortsProps {
  title: string;
  ports: NonNullable<Section["inputs"]>;
  onName: ((change: { port: string; name: string }) => void) | undefined;
}

function Ports({ title, ports, onName }: PortsProps) {
  if (ports.length === 0) return null;
  return (
    <>
      <h3 className="mt-3 mb-1 font-semibold text-soft">{title}</h3>
      <ul>
        {ports.map((one) => (
          <Port key={one.port} port={one} onName={onName} />
        ))}
      </ul>
    </>
  );
}

function Port({ port, onName }: { port: PortsProps["ports"][number]; onName: PortsProps["onName"] }) {
  const { patch, catalogue } = useBench();
  const title = portTitle(patch, port.port, catalogue);
  return (
    <li className="grid grid-cols-2 items-baseline gap-2 border-t border-rule py-1">
      {onName ? (
        <input
          key={port.name}
          aria-label={`Name of ${title}`}
          className="min-w-0 rounded-sm bg-transparent font-medium hover:bg-this/5 focus:bg-leaf"
          defaultValue={port.name}
          maxLength={60}
          onBlur={(event) => {
            const name = event.target.value.trim();
            if (name !== "" && name !== port.name) onName({ port: port.port, name });
          }}
          onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
        />
      ) : (
        <b className="font-medium">{port.name}</b>
      )}
      <span className="truncate text-soft">{title}</span>
    </li>
  );
}
