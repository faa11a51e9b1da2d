import { client, got, type Patch } from "../api/client";

const PLACE = "inner-tone/copied";

/** Copies modules with the connections among them, so that any step of any lesson in this browser can take them. */
export async function copyModules(patch: Patch, modules: string[]): Promise<void> {
  localStorage.setItem(PLACE, JSON.stringify(await fragmentOf(patch, modules)));
}

/** Some modules with the connections among them, as a patch of their own. */
export const fragmentOf = (patch: Patch, modules: string[]): Promise<Patch> =>
  got(client.POST("/api/patches/fragment", { body: { patch, modules } }));

/** What was copied last, if anything was. */
export function copied(): Patch | undefined {
  const text = localStorage.getItem(PLACE);
  return text === null ? undefined : (JSON.parse(text) as Patch);
}
