import type { DragEvent } from "react";

import { client, got } from "../api/client";
import type { Moves } from "./moves";

/** Puts the patch or the phrase of a file in the place of the bench's; says what was opened. */
export async function openedFrom(file: File, moves: Moves): Promise<string> {
  const found = await got(
    client.POST("/api/documents/opened", {
      body: file as never,
      bodySerializer: (body: unknown) => body as BodyInit,
      headers: { "Content-Type": "application/octet-stream" },
    }),
  );
  if (found.patch) moves.open(found.patch);
  if (found.phrase) moves.play(found.phrase);
  return found.patch ? `The patch of “${file.name}” is here.` : `The phrase of “${file.name}” is here.`;
}

/** A file that is dragged, if it may be a patch or a phrase. */
export function draggedFile(event: DragEvent): File | undefined {
  const file = event.dataTransfer.files.item(0);
  return file && /\.json$/i.test(file.name) ? file : undefined;
}
