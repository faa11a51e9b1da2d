import type { ReactNode } from "react";

import type { Instruction, StepContent } from "../api/client";
import { Instructions } from "./Instructions";
import { MarkdownField } from "./MarkdownField";

interface Props {
  content: StepContent;
  instructions: Instruction[];
  first: boolean;
  menu?: ReactNode;
  onChange?: (change: Partial<StepContent>) => void;
}

/** What a step says: its title, why, what to do, and what to listen for. */
export function StepText({ content, instructions, first, menu, onChange }: Props) {
  const write = (name: "title" | "why" | "listen") =>
    onChange && ((text: string) => onChange({ [name]: text }));
  return (
    <article
      tabIndex={0}
      aria-label="Text of this step"
      className="min-w-0 flex-1 overflow-y-auto px-4 py-3.5 -outline-offset-2"
    >
      <div className="mb-2 flex items-start gap-1">
        <Title title={content.title} onChange={write("title")} />
        {menu}
      </div>
      <MarkdownField
        label="Why"
        text={content.why}
        placeholder="Why this step? Write what the class should understand."
        className="font-read text-[16px] leading-[1.5]"
        onChange={write("why")}
      />
      <h2 className="mt-3 mb-1 font-semibold text-soft">Do this</h2>
      <Instructions instructions={instructions} first={first} />
      {(content.listen || onChange) && <h2 className="mt-3 mb-1 font-semibold text-soft">Listen for</h2>}
      <MarkdownField
        label="Listen for"
        text={content.listen}
        placeholder="What should be heard?"
        className="border-l-3 border-ink pl-3 font-read text-[15.5px] italic"
        onChange={write("listen")}
      />
    </article>
  );
}

function Title({ title, onChange }: { title: string; onChange: ((text: string) => void) | undefined }) {
  const look = "font-read text-[23px] leading-[1.2] font-semibold tracking-tight";
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
