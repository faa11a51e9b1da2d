import type { KeyboardEvent, ReactNode } from "react";

import type { Step, StepContent } from "../api/client";
import type { Catalogue } from "../api/patch";
import { MarkList } from "./MarkList";
import { AimChoice } from "./AimChoice";
import { useFields } from "./fields";
import { Instructions } from "./Instructions";
import { MarkdownField } from "./MarkdownField";
import type { OnLink } from "./Prose";
import { useVoice, type Voice, VOICES } from "./voice";

interface Props {
  content: StepContent;
  /** The step as the server has it, with what it tells to do. */
  step: Step;
  catalogue: Catalogue;
  first: boolean;
  menu?: ReactNode;
  onChange?: (change: Partial<StepContent>) => void;
  /** Splits the step after so many instructions. */
  onSplit?: (after: number) => void;
  onLink: OnLink;
  /** Takes back what was written last, or does it again. */
  onTravel?: (way: "undo" | "redo") => void;
  /** Of each instruction, whether one's own patch shows it. */
  ticks?: boolean[] | undefined;
  /** What stands above the text, and below it. */
  above?: ReactNode;
  children?: ReactNode;
}

/** What a step says: its title, why, what to do, and what to listen for. */
export function StepText({ content, step, first, menu, onChange, onLink, ...props }: Props) {
  const fields = useFields(content, onChange !== undefined);
  const write = (name: "why" | "listen") => onChange && ((text: string) => onChange({ [name]: text }));
  return (
    <article
      tabIndex={0}
      data-reading
      aria-label="Text of this step"
      onKeyDown={(event) => {
        const way = historyWay(event);
        if (!way || !props.onTravel || event.target instanceof HTMLTextAreaElement) return;
        event.preventDefault();
        props.onTravel(way);
      }}
      className="sheet min-w-0 flex-1 overflow-y-auto px-4 py-3.5 -outline-offset-2"
    >
      {props.above}
      <div className="mb-2 flex items-start gap-1">
        <Title
          title={content.title}
          onChange={onChange && ((title) => onChange({ title, title_made: false }))}
        />
        {menu}
      </div>
      <MarkdownField
        label="Why"
        text={content.why}
        placeholder="Why this step? Write what the class should understand."
        className="font-read text-read leading-[1.5]"
        fields={fields}
        onLink={onLink}
        onChange={write("why")}
      />
      <DoThis content={content} step={step} first={first} onChange={onChange} {...props} />
      {(content.listen || onChange) && <h2 className="mt-3 mb-1 font-semibold text-soft">Listen for</h2>}
      <MarkdownField
        label="Listen for"
        text={content.listen}
        placeholder="What should be heard?"
        className="border-l-3 border-ink pl-3 font-read text-read italic"
        fields={fields}
        onLink={onLink}
        onChange={write("listen")}
      />
      <MarkList
        marks={content.marks}
        patch={content.patch}
        catalogue={props.catalogue}
        onLink={onLink}
        onChange={onChange && ((marks) => onChange({ marks }))}
      />
      {onChange && <AimChoice aim={content.aim} onChange={(aim) => onChange({ aim })} />}
      {props.children}
    </article>
  );
}

type DoThisProps = Pick<Props, "content" | "step" | "first" | "onSplit" | "ticks"> & {
  onChange: Props["onChange"] | undefined;
};

/** The instructions, in one of their voices. */
function DoThis({ content, step, first, onChange, onSplit, ticks }: DoThisProps) {
  const [voice, setVoice] = useVoice();
  return (
    <>
      <div className="mt-3 mb-1 flex items-baseline gap-3">
        <h2 className="font-semibold text-soft">Do this</h2>
        <VoiceChoice voice={voice} onChoose={setVoice} />
      </div>
      <Instructions
        instructions={step.instructions}
        first={first}
        voice={voice}
        ticks={ticks}
        writing={
          onChange &&
          onSplit && {
            content,
            unfitting: step.unfitting,
            orderHolds: step.order_holds,
            onChange,
            onSplit,
          }
        }
      />
    </>
  );
}

/** Whether a key takes something back, or does it again. */
function historyWay(event: KeyboardEvent): "undo" | "redo" | undefined {
  const key = event.key.toLowerCase();
  if (!(event.ctrlKey || event.metaKey) || event.altKey) return undefined;
  if (key === "z") return event.shiftKey ? "redo" : "undo";
  return key === "y" ? "redo" : undefined;
}

function VoiceChoice({ voice, onChoose }: { voice: Voice; onChoose: (voice: Voice) => void }) {
  return (
    <div role="group" aria-label="How the instructions speak" className="flex gap-2 text-note">
      {VOICES.map((one) => (
        <button
          key={one}
          type="button"
          aria-pressed={one === voice}
          className={`border-b ${one === voice ? "border-ink font-semibold" : "border-transparent text-soft hover:text-ink"}`}
          onClick={() => onChoose(one)}
        >
          {one}
        </button>
      ))}
    </div>
  );
}

function Title({ title, onChange }: { title: string; onChange: ((text: string) => void) | undefined }) {
  const look = "font-read text-head leading-[1.2] font-semibold tracking-tight";
  if (!onChange) return <h1 className={`flex-1 ${look}`}>{title}</h1>;
  return (
    <h1 className="min-w-0 flex-1">
      <textarea
        aria-label="Title of the step"
        rows={1}
        maxLength={200}
        className={`field-sizing-content w-full resize-none overflow-hidden rounded-sm bg-transparent hover:bg-this/5 focus:bg-leaf ${look}`}
        value={title}
        onChange={(event) => onChange(event.target.value.replace(/\n/g, " "))}
        onKeyDown={(event) => {
          if (event.key === "Enter") {
            event.preventDefault();
            event.currentTarget.blur();
          }
        }}
      />
    </h1>
  );
}
