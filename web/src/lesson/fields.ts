import { useQuery } from "@tanstack/react-query";

import { client, got, type StepContent, type TextLink } from "../api/client";
import { useSettled } from "../api/useSettled";

const MOST_REMEDIES = 8;
const CODE = /(```[\s\S]*?(?:```|$)|`[^`\n]*`)/;
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

export const NO_FIELDS: Fields = { values: {}, links: {}, offered: [], links_offered: [] };

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
  return asked.data ?? NO_FIELDS;
}

/** A text as Markdown with its fields read: bold where they mean something, a gap where they do not. Code stays as it is. */
export const withFields = (text: string, fields: Fields): string =>
  text
    .split(CODE)
    .map((piece, place) =>
      place % 2 ? piece : piece.replace(FIELD, (_, field: string) => read(field.trim(), fields)),
    )
    .join("");

function read(field: string, { values, links }: Fields): string {
  const link = links[field];
  if (link) return `[${link.text}](#${link.kind}:${link.id})`;
  const value = values[field];
  if (value === undefined) return "…";
  return value === null ? `[${field}](#gap:${encodeURIComponent(field)})` : `**${value}**`;
}

/** What could stand in the place of a field that means nothing: the same of another module. */
export function remediesFor(field: string, { offered, links_offered }: Fields): string[] {
  const alike = (one: string, joint: string) =>
    field.includes(joint) && one.startsWith(field.slice(0, field.lastIndexOf(joint) + joint.length));
  const same = offered.filter((one) => alike(one, " of "));
  return [...same, ...links_offered.filter((one) => alike(one, "the module "))].slice(0, MOST_REMEDIES);
}
