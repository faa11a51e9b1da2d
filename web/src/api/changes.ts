import type { Patch, SetValue, Value } from "./client";

/** What a patch was made of: another one, in which a value was set. */
interface Origin {
  from: Patch;
  module: string;
  setting: string;
  /** How many settings lie between it and one of which nothing is known. */
  depth: number;
}

/** After so many settings in a row what lies before is let go: a drag must not keep all that it has passed. */
const LONGEST = 256;

const origins = new WeakMap<Patch, Origin>();

/** A patch in which a value is set; it is known of it what that was. */
export function withSetting(patch: Patch, module: string, setting: string, value: Value): Patch {
  const modules = patch.modules.map((one) =>
    one.id === module ? { ...one, settings: { ...one.settings, [setting]: value } } : one,
  );
  const after = { ...patch, modules };
  const depth = (origins.get(patch)?.depth ?? 0) + 1;
  if (depth < LONGEST) origins.set(after, { from: patch, module, setting, depth });
  return after;
}

/**
 * What has to be set in one patch so that it becomes another, as both were made here of the same one by settings alone;
 * nothing where that is not so. Patches are not compared: it is handed on how they were made.
 */
export function settingsSince(before: Patch, after: Patch): SetValue[] | undefined {
  const touched = touchedBetween(before, after);
  if (!touched) return undefined;
  const found: SetValue[] = [];
  for (const { module, setting } of touched) {
    const value = after.modules.find((one) => one.id === module)?.settings?.[setting];
    if (value === undefined) return undefined; // it was set for the first time, and that was taken back
    found.push({ kind: "set", module, setting, value });
  }
  return found;
}

/** The settings in which two patches may differ, each once; nothing where they are not known to be of one origin. */
function touchedBetween(one: Patch, other: Patch): Origin[] | undefined {
  const touched = new Map<string, Origin>();
  let [a, b] = [one, other];
  while (a !== b) {
    const [ofA, ofB] = [origins.get(a), origins.get(b)];
    const last = (ofA?.depth ?? 0) > (ofB?.depth ?? 0) ? ofA : ofB;
    if (!last) return undefined;
    if (last === ofA) a = last.from;
    else b = last.from;
    touched.set(`${last.module}.${last.setting}`, last);
  }
  return [...touched.values()];
}
