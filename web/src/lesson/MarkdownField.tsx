import { type ClipboardEvent, type DragEvent, type RefObject, useRef, useState } from "react";

import { ActionMenu } from "../ui/ActionMenu";
import { FileButton } from "../ui/FileButton";
import { messageOf } from "../api/messageOf";
import type { Fields } from "./fields";
import { type OnLink, Prose } from "./Prose";
import { imagesIn, imageText, markdownOf } from "./takeIn";

interface Props {
  label: string;
  text: string;
  placeholder: string;
  className: string;
  fields: Fields;
  onLink?: OnLink | undefined;
  onChange: ((text: string) => void) | undefined;
}

/** A text in Markdown with live fields: read as it is set, written as it is typed. */
export function MarkdownField(props: Props) {
  const { label, text, placeholder, className, fields, onLink, onChange } = props;
  const [writing, setWriting] = useState(false);
  if (onChange && writing) return <Writing {...props} onChange={onChange} onDone={() => setWriting(false)} />;
  const mend =
    onChange &&
    ((field: string, instead: string | undefined) =>
      onChange(text.replaceAll(`{${field}}`, instead === undefined ? "" : `{${instead}}`)));
  return (
    <div className="group relative">
      <div className={`prose ${className}`}>
        {text ? (
          <Prose text={text} fields={fields} onLink={onLink} onMend={mend} />
        ) : (
          onChange && <p className="text-soft italic">{placeholder}</p>
        )}
      </div>
      {onChange && (
        <button
          type="button"
          data-write={label}
          aria-label={`Write: ${label}`}
          className="absolute inset-0 cursor-text rounded-sm text-right align-top hover:bg-this/5"
          onClick={() => setWriting(true)}
        />
      )}
    </div>
  );
}

interface WritingProps extends Props {
  onChange: (text: string) => void;
  onDone: () => void;
}

const TABLE = "\n\n| what | value |\n| --- | --- |\n| first | 1 |\n";

/** Where a text is written: what can be done with it above, and how it will read below. */
function Writing({ label, text, className, fields, onChange, onDone }: WritingProps) {
  const area = useRef<HTMLTextAreaElement>(null);
  const { state, take } = useTaking(area);
  const around = (before: string, after: string, empty: string) => {
    const field = area.current;
    if (!field) return;
    const { selectionStart: start, selectionEnd: end } = field;
    const chosen = text.slice(start, end) || empty;
    typeIn(field, `${before}${chosen}${after}`);
    field.setSelectionRange(start + before.length, start + before.length + chosen.length);
  };
  const paste = (event: ClipboardEvent) => {
    const images = imagesIn(event.clipboardData.files);
    const html = event.clipboardData.getData("text/html");
    const markdown = html ? markdownOf(html) : undefined;
    if (images.length === 0 && markdown === undefined) return;
    event.preventDefault();
    if (markdown !== undefined) typeIn(area.current, markdown);
    else void take(images);
  };
  const drop = (event: DragEvent) => {
    const images = imagesIn(event.dataTransfer.files);
    if (images.length === 0) return;
    event.preventDefault();
    void take(images);
  };
  return (
    <div
      onBlur={(event) => {
        const here = event.currentTarget;
        // what is focused next is not always told: a list of choices opens in a window of its own
        setTimeout(() => {
          const now = document.activeElement;
          if (!here.contains(now) && !now?.closest("[role=menu]") && document.hasFocus()) onDone();
        }, 150);
      }}
    >
      <Toolbar label={label} fields={fields} onAround={around} onImages={(images) => void take(images)} />
      <textarea
        ref={area}
        aria-label={label}
        autoFocus
        rows={8}
        className={`field-sizing-content min-h-24 w-full rounded border border-firm bg-leaf p-2 ${className}`}
        value={text}
        onChange={(event) => onChange(event.target.value)}
        onPaste={paste}
        onDrop={drop}
        onKeyDown={(event) => {
          if (event.key === "Escape") onDone();
        }}
      />
      <Taken {...state} />
      {text && <Preview {...{ label, text, className, fields }} />}
    </div>
  );
}

/** How a text will read. */
function Preview({
  label,
  text,
  className,
  fields,
}: Pick<WritingProps, "label" | "text" | "className" | "fields">) {
  return (
    <div
      aria-label={`Preview: ${label}`}
      role="region"
      className={`prose mt-1 border-l border-rule pl-2 ${className}`}
    >
      <Prose text={text} fields={fields} onLink={undefined} />
    </div>
  );
}

interface ToolbarProps {
  label: string;
  fields: Fields;
  /** Writes around what is chosen, or around a word for it. */
  onAround: (before: string, after: string, empty: string) => void;
  onImages: (images: File[]) => void;
}

function Toolbar({ label, fields, onAround, onImages }: ToolbarProps) {
  return (
    <div
      role="toolbar"
      aria-label={`For the text: ${label}`}
      className="mb-1 flex flex-wrap items-baseline gap-1 text-note"
    >
      <Tool word="Bold" onClick={() => onAround("**", "**", "bold")} />
      <Tool word="Italic" onClick={() => onAround("*", "*", "italic")} />
      <Tool word="Heading" onClick={() => onAround("\n## ", "\n", "Heading")} />
      <Tool word="List" onClick={() => onAround("\n- ", "", "first")} />
      <Tool word="Table" onClick={() => onAround(TABLE, "", "")} />
      <Tool word="Code" onClick={() => onAround("`", "`", "code")} />
      <Tool word="Link" onClick={() => onAround("[", "](https://)", "words")} />
      <FileButton
        label={`An image for the text: ${label}`}
        accept="image/png,image/jpeg,image/webp,image/gif"
        className={TOOL}
        onChoose={(file) => onImages([file])}
      >
        Image…
      </FileButton>
      <Choice
        word="Field…"
        label="Put in a live field"
        offered={fields.offered}
        onChoose={(field) => onAround("", `{${field}}`, "")}
      />
      <Choice
        word="Point to…"
        label="Put in a link to a mark, a picture, a detour or a module"
        offered={fields.links_offered}
        onChoose={(link) => onAround("", `{${link}}`, "")}
      />
    </div>
  );
}

interface ChoiceProps {
  word: string;
  label: string;
  offered: string[];
  onChoose: (field: string) => void;
}

/** A list of what can be put in: nothing is, until one is chosen. */
const Choice = ({ word, label, offered, onChoose }: ChoiceProps) => (
  <ActionMenu
    label={`${word} ${label}`}
    anchor="bottom start"
    className="rounded border border-rule bg-leaf px-1.5 hover:border-firm disabled:text-soft"
    actions={offered.map((one) => ({ word: one, run: () => onChoose(one) }))}
  >
    {word}
  </ActionMenu>
);

/** How it stands with images that are taken in. */
const Taken = ({ busy, failure }: { busy: boolean; failure?: string }) => (
  <>
    {busy && (
      <p role="status" className="text-note text-soft">
        Taking the image in…
      </p>
    )}
    {failure !== undefined && (
      <p role="alert" className="text-note text-warn">
        {failure}
      </p>
    )}
  </>
);

/** Writes into a field as somebody does who types, so that what the browser can take back, it can take back here too. */
function typeIn(field: HTMLTextAreaElement | null, words: string): void {
  if (!field) return;
  field.focus();
  // there is no other way that keeps the field's own undo
  // eslint-disable-next-line @typescript-eslint/no-deprecated
  document.execCommand("insertText", false, words);
}

/** Takes images into a text, where its cursor stands. */
function useTaking(area: RefObject<HTMLTextAreaElement | null>) {
  const [state, setState] = useState<{ busy: boolean; failure?: string }>({ busy: false });
  const take = async (images: File[]) => {
    setState({ busy: true });
    try {
      for (const image of images) typeIn(area.current, `\n${await imageText(image)}\n`);
      setState({ busy: false });
    } catch (error) {
      setState({ busy: false, failure: messageOf(error) });
    }
  };
  return { state, take };
}

const TOOL = "rounded border border-rule bg-leaf px-1.5 hover:border-firm";

const Tool = ({ word, onClick }: { word: string; onClick: () => void }) => (
  <button type="button" className={TOOL} onClick={onClick}>
    {word}
  </button>
);
