import { useState } from "react";

import { Panel } from "../ui/Panel";
import { messageOf } from "../ui/messageOf";
import { useBench } from "./BenchContext";
import { openedFrom } from "./documents";

/** Opens a patch or a phrase from a file, in the place of what stands at the bench. */
export function FilePanel() {
  const { state, moves } = useBench();
  const [failure, setFailure] = useState<string>();
  const close = () => state.ask(undefined);
  const open = (file: File) => {
    setFailure(undefined);
    openedFrom(file, moves).then(
      (said) => {
        close();
        state.say(said);
      },
      (error: unknown) => setFailure(messageOf(error)),
    );
  };
  return (
    <Panel title="Open a patch or a phrase" onClose={close}>
      <div className="px-4 pt-2 pb-4">
        <p className="mb-3 font-read text-read">
          A patch takes the place of the one at this bench, a phrase that of the phrase. Undo brings back what
          was there. A file can be dropped onto the map, too.
        </p>
        <input
          type="file"
          autoFocus
          aria-label="A patch or a phrase"
          accept="application/json,.json"
          onChange={({ currentTarget }) => {
            const [file] = currentTarget.files ?? [];
            if (file) open(file);
          }}
        />
        {failure && (
          <p role="alert" className="mt-3 text-warn">
            {failure}
          </p>
        )}
      </div>
    </Panel>
  );
}
