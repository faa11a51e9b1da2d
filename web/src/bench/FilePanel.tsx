import { useState } from "react";

import { Failure } from "../ui/Failure";
import { FileButton } from "../ui/FileButton";
import { Panel } from "../ui/Panel";
import { messageOf } from "../api/messageOf";
import { useBench } from "./BenchContext";
import { type Opened, openedFrom } from "./documents";

/** Opens a patch or a phrase from a file: in the place of what stands at the bench, or a patch beside it. */
export function FilePanel() {
  const { patch, state, moves } = useBench();
  const [found, setFound] = useState<Opened>();
  const [busy, setBusy] = useState(false);
  const [failure, setFailure] = useState<string>();
  const close = () => state.ask(undefined);
  const done = (said: string) => {
    close();
    state.say(said);
  };
  const replace = ({ name, patch: whole, phrase }: Opened) => {
    if (whole) moves.open(whole);
    if (phrase) moves.play(phrase);
    done(`The ${whole ? "patch" : "phrase"} of “${name}” is here.`);
  };
  const open = async (file: File) => {
    setFailure(undefined);
    setBusy(true);
    try {
      const one = await openedFrom(file);
      if (one.patch && patch.modules.length > 0) setFound(one);
      else replace(one);
    } catch (error) {
      setFailure(messageOf(error));
    }
    setBusy(false);
  };
  const beside = ({ name, patch: fragment }: Opened) => {
    if (!fragment) return;
    void moves
      .apply([{ kind: "paste", fragment }])
      .then((touched) => touched && done(`What is in “${name}” stands beside what was here.`));
  };
  return (
    <Panel title="Open a patch or a phrase" onClose={close}>
      <div className="px-4 pt-2 pb-4">
        <p className="mb-3 font-read text-read">
          A phrase takes the place of the one here. A patch does too, or it comes beside what is here, as a
          section that was saved does. Undo brings back what was there. A file can be dropped onto the map,
          too.
        </p>
        {found ? (
          <Where onReplace={() => replace(found)} onBeside={() => beside(found)} />
        ) : (
          <FileButton
            label="A patch or a phrase"
            accept="application/json,.json"
            disabled={busy}
            autoFocus
            onChoose={(file) => void open(file)}
          >
            {busy ? "Reading…" : "Choose a file…"}
          </FileButton>
        )}
        <Failure said={failure} className="mt-3" />
      </div>
    </Panel>
  );
}

/** Where a patch is to stand, if there is one already. */
function Where({ onReplace, onBeside }: { onReplace: () => void; onBeside: () => void }) {
  return (
    <div className="flex flex-wrap gap-3">
      <button type="button" autoFocus className="button-strong" onClick={onReplace}>
        In the place of this patch
      </button>
      <button type="button" className="button" onClick={onBeside}>
        Beside what is here
      </button>
    </div>
  );
}
