import type { DragEvent } from "react";

import { client, got, type Patch, type Phrase, sentAs } from "../api/client";

/** What a file holds, and what it is called. */
export interface Opened {
  name: string;
  patch: Patch | null;
  phrase: Phrase | null;
}

/** The patch or the phrase of a file, checked. */
export async function openedFrom(file: File): Promise<Opened> {
  const found = await got(client.POST("/api/documents/opened", await sentAs(file)));
  return { name: file.name, patch: found.patch ?? null, phrase: found.phrase ?? null };
}

/** A file that is dragged, if it may be a patch or a phrase. */
export function draggedFile(event: DragEvent): File | undefined {
  const file = event.dataTransfer.files.item(0);
  return file && /\.json$/i.test(file.name) ? file : undefined;
}
