import type { Edit, Patch, Section } from "../api/client";
import { type Catalogue, portTitle, titleOf } from "../api/patch";
import { Title } from "./Inspector";

interface Props {
  section: Section;
  patch: Patch;
  catalogue: Catalogue;
  onEdit: ((edits: Edit[]) => void) | undefined;
}

/** A section: what is in it, and the names of its inputs and outputs. */
export function SectionInspector({ section, patch, catalogue, onEdit }: Props) {
  const titles = patch.modules
    .filter((one) => section.modules.includes(one.id))
    .map((one) => titleOf(one, catalogue));
  const edit = (change: { label?: string; open?: boolean; port?: string; name?: string }) =>
    onEdit?.([{ kind: "section", section: section.id, name: "", ...change }]);
  return (
    <section aria-label={`The section ${section.label}`} className="px-4 py-3">
      <Title
        key={section.label}
        label={section.label}
        title={section.label}
        onRename={onEdit && ((label) => edit({ label }))}
      />
      <p className="text-soft">
        <b className="font-medium text-ink">Section.</b> {titles.join(", ")}.
      </p>
      <Ports
        title="Inputs"
        ports={section.inputs}
        patch={patch}
        catalogue={catalogue}
        onName={onEdit && edit}
      />
      <Ports
        title="Outputs"
        ports={section.outputs}
        patch={patch}
        catalogue={catalogue}
        onName={onEdit && edit}
      />
      {onEdit && (
        <div className="mt-4 flex gap-2">
          <button type="button" className="button" onClick={() => edit({ open: !section.open })}>
            {section.open ? "Close" : "Open"}
          </button>
          <button
            type="button"
            className="button"
            onClick={() => onEdit([{ kind: "take-apart", section: section.id }])}
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
  patch: Patch;
  catalogue: Catalogue;
  onName: ((change: { port: string; name: string }) => void) | undefined;
}

function Ports({ title, ports, patch, catalogue, onName }: PortsProps) {
  if (ports.length === 0) return null;
  return (
    <>
      <h3 className="mt-3 mb-1 font-semibold text-soft">{title}</h3>
      <ul>
        {ports.map((one) => (
          <li key={one.port} className="grid grid-cols-2 items-baseline gap-2 border-t border-rule py-1">
            {onName ? (
              <input
                key={one.name}
                aria-label={`Name of ${portTitle(patch, one.port, catalogue)}`}
                className="min-w-0 rounded-sm bg-transparent font-medium hover:bg-this/5 focus:bg-leaf"
                defaultValue={one.name}
                maxLength={60}
                onBlur={(event) => {
                  const name = event.target.value.trim();
                  if (name !== "" && name !== one.name) onName({ port: one.port, name });
                }}
                onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
              />
            ) : (
              <b className="font-medium">{one.name}</b>
            )}
            <span className="truncate text-soft">{portTitle(patch, one.port, catalogue)}</span>
          </li>
        ))}
      </ul>
    </>
  );
}
