import { useState } from "react";
import { useNavigate } from "react-router";

import { type BundledLesson, type BundlePreview, client, got, sentAs } from "../api/client";
import { refreshShelf } from "../api/queries";
import { counted } from "../ui/counted";
import { FileButton } from "../ui/FileButton";
import { messageOf } from "../api/messageOf";
import { Panel } from "../ui/Panel";

/** Opens a bundle: a lesson in one file, from here or from another town. What it would bring is shown before. */
export function OpenBundle() {
  const [file, setFile] = useState<File>();
  return (
    <>
      <div
        className="mt-6 self-start"
        onDragOver={(event) => event.preventDefault()}
        onDrop={(event) => {
          event.preventDefault();
          setFile(event.dataTransfer.files.item(0) ?? undefined);
        }}
      >
        <FileButton label="A bundle" accept="application/zip,.zip" title="Or drop it here" onChoose={setFile}>
          Open a bundle…
        </FileButton>
      </div>
      {file && (
        <Preview key={`${file.name} ${file.lastModified}`} file={file} onClose={() => setFile(undefined)} />
      )}
    </>
  );
}

/** What a bundle would bring, asked for once; then it is opened, or left alone. */
function usePreview(file: File) {
  const [found, setFound] = useState<BundlePreview>();
  const [failure, setFailure] = useState<string>();
  const [busy, setBusy] = useState(false);
  const [asked] = useState(() =>
    sentAs(file)
      .then((sent) => got(client.POST("/api/bundles/preview", sent)))
      .then(setFound, (error: unknown) => setFailure(messageOf(error))),
  );
  const navigate = useNavigate();
  const open = async () => {
    setBusy(true);
    setFailure(undefined);
    try {
      await asked;
      const { series, lessons } = await got(client.POST("/api/bundles", await sentAs(file)));
      void refreshShelf();
      await navigate(series ? `/series/${series}` : `/desk/${lessons[0]}/1`);
    } catch (error) {
      setFailure(messageOf(error));
      setBusy(false);
    }
  };
  return { found, failure, busy, open };
}

function Preview({ file, onClose }: { file: File; onClose: () => void }) {
  const { found, failure, busy, open } = usePreview(file);
  return (
    <Panel title={found ? `“${titleOf(found)}” comes in` : file.name} onClose={onClose}>
      <div className="min-h-0 overflow-y-auto px-4 pt-2 pb-4">
        {!found && failure === undefined && (
          <p role="status" className="font-read text-read text-soft italic">
            Looking into it…
          </p>
        )}
        {found?.series != null && (
          <p className="mb-2 font-read text-read">
            A series of {counted(found.lessons.length, "lesson")}, in their order.
          </p>
        )}
        {found?.lessons.map((one, place) => (
          <Contents key={place} found={one} within={found.series !== null} />
        ))}
        {found && (
          <p className="mt-3 text-note text-soft">
            It becomes yours. Nothing that is here already is changed.
          </p>
        )}
        {failure !== undefined && (
          <p role="alert" className="mt-3 text-warn">
            {failure}
          </p>
        )}
        <div className="mt-4 flex gap-3">
          {found && (
            <button type="button" className="button-strong" disabled={busy} onClick={() => void open()}>
              {busy
                ? "Opening…"
                : found.lessons.every(({ same }) => same.length > 0)
                  ? "Open another copy"
                  : "Open it"}
            </button>
          )}
          <button type="button" className="button" onClick={onClose}>
            Leave it
          </button>
        </div>
      </div>
    </Panel>
  );
}

const titleOf = ({ series, lessons }: BundlePreview): string => series ?? lessons[0]?.title ?? "";

/** What a lesson would bring; `within` a series it stands under its title. */
function Contents({ found, within }: { found: BundledLesson; within: boolean }) {
  const parts = [
    count(found.images, "image"),
    ...found.sounds.map((one) => `the recording “${one.name}” (${one.seconds.toFixed(1)} s)`),
  ].filter((one) => one !== undefined);
  return (
    <>
      {within && <h3 className="mt-4 mb-1 font-read text-read font-semibold">{found.title}</h3>}
      {found.summary && <p className="mb-3 font-read text-read">{found.summary}</p>}
      <ol className="list-decimal border-t border-rule pt-2 pl-6">
        {found.steps.map((step, place) => (
          <li key={place} className="font-read">
            {step.title || "A step without a title"}
            {step.extra && <span className="text-soft italic"> – not in the short edition</span>}
          </li>
        ))}
      </ol>
      {found.steps.length === 0 && <p className="text-soft italic">It has no steps yet.</p>}
      {parts.length > 0 && (
        <p className="mt-3 text-soft">
          With {parts.join(", ")}
          {found.known > 0 &&
            `; ${found.known === 1 ? "one of them is" : `${found.known} of them are`} here already`}
          .
        </p>
      )}
      {found.same.length > 0 && (
        <p className="mt-3 border-l-2 border-this pl-3">
          You have the very same lesson already. Opened again, it stands beside it.
        </p>
      )}
    </>
  );
}

/** So many things in words; nothing of none. */
const count = (number: number, word: string): string | undefined =>
  number === 0 ? undefined : number === 1 ? `one ${word}` : `${number} ${word}s`;
