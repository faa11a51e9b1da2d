import { createContext, type ReactNode, use } from "react";
import Markdown, { type Components } from "react-markdown";
import remarkGfm from "remark-gfm";

import type { TextLink } from "../api/client";
import { lighting } from "../marks/lit";
import { MarkNumber } from "../marks/MarkNumber";
import { ActionMenu } from "../ui/ActionMenu";
import { type Fields, NO_FIELDS, remediesFor, withFields } from "./fields";

export type OnLink = (kind: TextLink["kind"], id: string) => void;
/** Puts another field in the place of one that means nothing, or nothing at all. */
export type OnMend = (field: string, instead: string | undefined) => void;

interface Props {
  text: string;
  fields: Fields;
  /** Follows a link to a picture, a detour, a module or a mark of the step. */
  onLink: OnLink | undefined;
  onMend?: OnMend | undefined;
}

const INNER = /^#(plate|detour|module|mark|gap):(.+)$/;
const OWN_IMAGE = /^\/api\/images\/[0-9a-f]{64}$/;
const PLUGINS = [remarkGfm];

/** What the links and the gaps of a text do; apart from the text, so that it is not read anew when only that changes. */
const Doing = createContext<Pick<Props, "fields" | "onLink" | "onMend">>({
  fields: NO_FIELDS,
  onLink: undefined,
});

/** A text in Markdown with its live fields read and its links alive. */
export function Prose({ text, fields, onLink, onMend }: Props) {
  return (
    <Doing value={{ fields, onLink, onMend }}>
      <Markdown components={COMPONENTS} remarkPlugins={PLUGINS}>
        {withFields(text, fields)}
      </Markdown>
    </Doing>
  );
}

const COMPONENTS: Components = {
  // the title of the step is the first heading of the page, and what stands in the text is beneath it
  h1: ({ children }) => <h2 className="large">{children}</h2>,
  table: ({ children }) => (
    <div className="overflow-x-auto" tabIndex={0} role="group" aria-label="Table">
      <table>{children}</table>
    </div>
  ),
  img: ({ src, alt }) =>
    typeof src === "string" && OWN_IMAGE.test(src) ? (
      <img src={src} alt={alt ?? ""} loading="lazy" />
    ) : (
      <span className="gap">a picture from elsewhere{alt ? `: ${alt}` : ""}</span>
    ),
  a: ({ href = "", children }) => {
    const inner = INNER.exec(href);
    if (!inner)
      return (
        <a href={href} target="_blank" rel="noreferrer">
          {children}
        </a>
      );
    const [, kind, id = ""] = inner;
    if (kind === "gap") return <Gap field={decodeURIComponent(id)} />;
    if (kind === "mark") return <MarkLink number={Number(id)} />;
    return (
      <InnerLink kind={kind as TextLink["kind"]} id={id}>
        {children}
      </InnerLink>
    );
  },
};

function InnerLink({ kind, id, children }: { kind: TextLink["kind"]; id: string; children: ReactNode }) {
  const { onLink } = use(Doing);
  return (
    <button
      type="button"
      data-link={`${kind}:${id}`}
      className="lead relative z-10"
      onClick={() => onLink?.(kind, id)}
    >
      {children}
    </button>
  );
}

/** The number of a mark in a text: pointed at, it lights its place; pressed, it goes there. */
function MarkLink({ number }: { number: number }) {
  const { onLink } = use(Doing);
  return (
    <button
      type="button"
      aria-label={`Mark ${number}`}
      data-link={`mark:${number}`}
      className="relative z-10 mx-0.5 cursor-pointer"
      onClick={() => onLink?.("mark", `${number}`)}
      {...lighting(number)}
    >
      <MarkNumber number={number} />
    </button>
  );
}

/** A field that means nothing any longer, as when its module was removed: marked, with what can be done about it. */
function Gap({ field }: { field: string }) {
  const { fields, onMend } = use(Doing);
  if (!onMend)
    return (
      <span className="gap" data-gap={field} title="This is not in the patch any longer.">
        {field}
      </span>
    );
  const instead = remediesFor(field, fields).map((one) => ({ word: one, run: () => onMend(field, one) }));
  return (
    <span className="relative z-10 inline-block" data-gap={field}>
      <ActionMenu
        label={`${field} – mend…: there is no such thing here`}
        anchor="bottom start"
        className="gap"
        actions={[
          ...instead,
          { word: "Take it out", run: () => onMend(field, undefined), apart: instead.length > 0 },
        ]}
      >
        {field} – mend…
      </ActionMenu>
    </span>
  );
}
