/** Pictures, numbers and sounds as files on the reader's own machine. */

import { ApiError, client, type Patch, type Phrase, type Recipe } from "../api/client";

export type PictureFormat = "svg" | "png" | "csv";
export type SoundFormat = "wav" | "flac";

const TROUBLE = "The file could not be made.";

export async function savePicture(
  recipe: Recipe,
  caption: string,
  format: PictureFormat,
  name: string,
): Promise<void> {
  const { data, response } = await client.POST("/api/charts/picture", {
    params: { query: { format } },
    body: { recipe, caption },
    parseAs: "blob",
  });
  if (!response.ok || !data) throw new ApiError(TROUBLE, response.status);
  save(data, `${name}.${format}`);
}

export async function saveSound(
  patch: Patch,
  phrase: Phrase,
  tap: string,
  format: SoundFormat,
): Promise<void> {
  const { data, response } = await client.POST("/api/charts/sound", {
    params: { query: { format } },
    body: { patch, phrase, tap },
    parseAs: "blob",
  });
  if (!response.ok || !data) throw new ApiError(TROUBLE, response.status);
  save(data, `${tap.replace(".", "-")}.${format}`);
}

export async function saveMidi(phrase: Phrase): Promise<void> {
  const { data, response } = await client.POST("/api/phrases/midi/file", {
    body: { phrase },
    parseAs: "blob",
  });
  if (!response.ok || !data) throw new ApiError(TROUBLE, response.status);
  save(data, `${phrase.title || "phrase"}.mid`);
}

/** Saves a patch or a phrase as it is, to be opened at a bench again. */
export function saveDocument(document: Patch | Phrase, name: string): void {
  const text = `${JSON.stringify(document, undefined, 1)}\n`;
  save(new Blob([text], { type: "application/json" }), `${name || "phrase"}.json`);
}

function save(file: Blob, name: string): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(file);
  link.download = name;
  document.body.append(link);
  link.click();
  link.remove();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
