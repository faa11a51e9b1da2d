import { useQuery } from "@tanstack/react-query";

import { client, type Edit, got, type Patch, type SamplerSound, sentAs } from "../api/client";
import { queries } from "../api/queries";

/** What is said of a sound by whoever keeps it. */
export interface About {
  name: string;
  source: string;
  licence: string;
}

const OWN = /^([0-9a-f]{64}) (.+)$/s;

/** The key of an own sound that a sampler is set to; nothing for one that comes with the program. */
export const keyOf = (sound: string): string | undefined => OWN.exec(sound)?.[1];
export const nameOf = (sound: string): string => OWN.exec(sound)?.[2] ?? sound;

/** The own sounds that samplers of some patches are set to, each once. */
export function ownSoundsIn(patches: Patch[]): string[] {
  const set = patches.flatMap(({ modules }) => modules.flatMap((one) => Object.values(one.settings ?? {})));
  return [...new Set(set.filter((one): one is string => typeof one === "string" && OWN.test(one)))];
}

const listKey = ["sounds"];

/** The sounds that can be played: one's own, and those that come with the program. */
export const useSounds = () =>
  useQuery({ queryKey: listKey, staleTime: 60_000, queryFn: () => got(client.GET("/api/sounds")) });

/** A sound that a sampler is set to, with all that is known of it. */
export function useSound(sound: string) {
  const key = keyOf(sound);
  const shipped = useSounds().data?.shipped.find((one) => one.sound === sound);
  const asked = useQuery({
    queryKey: ["sounds", key],
    enabled: key !== undefined,
    staleTime: Infinity,
    queryFn: () => got(client.GET("/api/sounds/{key}", { params: { path: { key: key ?? "" } } })),
  });
  return key === undefined ? { data: shipped, gone: false } : { data: asked.data, gone: asked.isError };
}

const afresh = () => queries.invalidateQueries({ queryKey: listKey });

/** Keeps a sound file; what becomes of it is what is returned. */
export async function send(file: File, about: About): Promise<SamplerSound> {
  const params = { query: { ...about } };
  const made = await got(client.POST("/api/sounds", { params, ...(await sentAs(file)) }));
  await afresh();
  return made;
}

/** Of what a sound can be made that is here already. */
export interface Made {
  take?: string;
  tap?: string;
  recording?: string;
  begin_s?: number;
  end_s?: number;
}

export async function make(of: Made, about: About): Promise<SamplerSound> {
  const made = await got(client.POST("/api/sounds/made", { body: { begin_s: 0, ...of, ...about } }));
  await afresh();
  return made;
}

export async function describe(key: string, about: About): Promise<void> {
  await got(client.PUT("/api/sounds/{key}", { params: { path: { key } }, body: about }));
  await afresh();
}

export async function giveUp(key: string): Promise<void> {
  await got(client.DELETE("/api/sounds/{key}", { params: { path: { key } } }));
  await afresh();
}

/** Lets a sampler play a sound, as is proposed for it. */
export function choosing(module: string, setting: string, { sound, facts }: SamplerSound): Edit[] {
  const { root, start, end, loop_from, loop_to } = facts;
  const all = { [setting]: sound, root, start, end, loop_from, loop_to, crossfade: facts.crossfade_s };
  return Object.entries(all).map(([name, value]) => ({ kind: "set", module, setting: name, value }));
}

/** Where the file of a sound is. */
export const addressOf = ({ key, sound }: SamplerSound): string =>
  key ? `/api/sounds/${key}/sound` : `/api/sounds/shipped/${sound}`;
