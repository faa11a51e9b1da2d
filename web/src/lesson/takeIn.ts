/** What is pasted or dropped into a text: images as files, and pages from elsewhere as Markdown. */

import { tables } from "@joplin/turndown-plugin-gfm";
import Turndown from "turndown";

import { client, got, sentAs } from "../api/client";

const converter = new Turndown({
  headingStyle: "atx",
  bulletListMarker: "-",
  codeBlockStyle: "fenced",
  emDelimiter: "*",
});
converter.use(tables);
// images of other sites are not ours to show; what runs or styles a page is no text
converter.addRule("images", { filter: "img", replacement: (_, node) => node.getAttribute("alt") ?? "" });
converter.remove(["script", "style", "noscript", "iframe", "title", "meta", "link"]);

/** What stands in a page from elsewhere, as Markdown; nothing if it has no more to it than its plain text. */
export function markdownOf(html: string): string | undefined {
  if (!/<(h[1-6]|ul|ol|li|table|strong|b|em|i|a|code|pre|blockquote|p)[\s>]/i.test(html)) return undefined;
  return converter.turndown(html).replaceAll("\u00a0", " ").trim();
}

/** The images among files. */
export const imagesIn = (files: FileList | undefined): File[] =>
  [...(files ?? [])].filter((file) => file.type.startsWith("image/"));

/** Keeps an image, and returns how it stands in a text. */
export async function imageText(file: File): Promise<string> {
  const { key } = await got(client.POST("/api/images", await sentAs(file)));
  const name = file.name.replace(/\.[^.]*$/, "").replace(/[[\]]/g, " ");
  return `![${name}](/api/images/${key})`;
}
