import { useQuery } from "@tanstack/react-query";

import { client, got, type StepContent, type TextLink } from "../api/client";
import { useSettled } from "../ui/useSettled";

const STILL_MS = 300;
const FIELD = /\{([^{}\n]{1,160})\}/g;

export interface Fields {
  /** What each field reads; nothing where there is nothing that it could mean. */
  values: Record<string, string | null>;
  /** What those lead to that are links. */
  links: Record<string, TextLink>;
  /** All that could be named in this step, and all that could be linked to. */
  offered: string[];
  links_offered: string[];
}

const NONE: Fields = { values: {}, links: {}, offered: [], links_offered: [] };

/** What the live fields of a step's texts read, and where its links lead. They follow the patch. */
export function useFields(content: StepContent, writing: boolean): Fields {
  const texts = [content.why, content.listen];
  const used = texts.some((text) => text.match(FIELD) !== null);
  const settled = useSettled(
    {
      ...content,
      plates: writing || used ? content.plates : [],
      decisions: [],
      wording: [],
      order: [],
      built_on: null,
    },
    STILL_MS,
  );
  const asked = useQuery({
    queryKey: ["fields", settled, writing],
    enabled: writing || used,
    staleTime: Infinity,
    gcTime: 60_000,
    placeholderData: (previous) => previous,
    queryFn: () => got(client.POST("/api/fields", { body: { content: settled, offer: writing } })),
  });
  return asked.data ?? NONE;
}

/** A text as Markdown with its fields read: bold where they mean something, marked where they do not. */
export const withFields = (text: string, { values, links }: Fields): string =>
  text.replace(FIELD, (whole, field: string) => {
    const link = links[field.trim()];
    if (link) return `[${link.text}](#${link.kind}:${link.id})`;
    const value = values[field.trim()];
    if (value === undefined) return "…";
    return value === null ? `\`${whole}\`` : `**${value}**`;
  });
