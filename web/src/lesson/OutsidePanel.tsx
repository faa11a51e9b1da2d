import { rules } from "../api/rules";
import { Panel } from "../ui/Panel";

/** What learners with other instruments would record of a step: to be heard, or kept and given as one of them would. */
export function OutsidePanel({ stepId, onClose }: { stepId: string; onClose: () => void }) {
  return (
    <Panel title="This step on other instruments" onClose={onClose}>
      <div className="min-h-0 overflow-y-auto px-4 pt-1 pb-4" data-outside>
        <p className="font-read text-read">
          Not everybody has Inner Tone’s modules. These are simulated: what each does in its own way counts as
          the same when a learner gives a recording of it.
        </p>
        {rules.instruments.map(({ name, title, otherwise }) => {
          const address = `/api/steps/${stepId}/outside/${name}`;
          return (
            <article key={name} className="mt-3 border-t border-rule pt-2">
              <h3 className="font-read text-read font-semibold">{title}</h3>
              <p className="font-read text-work">{otherwise}</p>
              <div className="mt-1.5 flex items-center gap-3">
                <audio controls preload="none" src={address} aria-label={title} className="h-9 flex-1" />
                <a href={address} download={`${name}.wav`} className="button">
                  Keep as WAV
                </a>
              </div>
            </article>
          );
        })}
      </div>
    </Panel>
  );
}
