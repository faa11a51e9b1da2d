import { client, got, type LensWish, type Patch, type Phrase, type Render } from "../api/client";
import { prefetchSound } from "./sounds";
import { useLatest } from "./useLatest";

async function render(wish: { patch: Patch; phrase: Phrase; lenses: LensWish[] }): Promise<Render> {
  const done = await got(client.POST("/api/renders", { body: wish }));
  prefetchSound(done.key);
  return done;
}

/** The render of a patch with what lenses show of it; undefined until the first answer, then always the latest. */
export function useRender(patch: Patch | undefined, phrase: Phrase | undefined, lenses: LensWish[]) {
  return useLatest("render", patch && phrase ? { patch, phrase, lenses } : undefined, render);
}
