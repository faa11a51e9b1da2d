import Markdown, { type Components } from "react-markdown";

import type { TextLink } from "../api/client";
import { type Fields, withFields } from "./fields";

export type OnLink = (kind: TextLink["kind"], id: string) => void;

interface Props {
  text: string;
  fields: Fields;
  /** Follows a link to a picture, a detour or a module of the step. */
  onLink: OnLink | undefined;
}

const INNER = /^#(plate|detour|module):(.+)$/;

/** A text in Markdown with its live fields read and its links alive. */
export function Prose({ text, fields, onLink }: Props) {
  const components: Components = {
    a: ({ href = "", children }) => {
      const inner = INNER.exec(href);
      if (!inner)
        return (
          <a href={href} target="_blank" rel="noreferrer">
            {children}
          </a>
        );
      const [, kind, id = ""] = inner;
      return (
        <button
          type="button"
          data-link={`${kind}:${id}`}
          className="relative z-10 text-this underline decoration-dotted underline-offset-3 hover:decoration-solid"
          onClick={() => onLink?.(kind as TextLink["kind"], id)}
        >
          {children}
        </button>
      );
    },
  };
  return <Markdown components={components}>{withFields(text, fields)}</Markdown>;
}
