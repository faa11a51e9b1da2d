import { ApiError } from "../api/client";
import { patient, queries } from "../api/queries";

/** The sounds of renders, fetched as soon as their key is known and remembered for a while. */

const REMEMBERED = 12;
const fetched = new Map<string, Promise<ArrayBuffer>>();

/** The WAV file of a render. A copy, since decoding takes the bytes away. */
export async function soundOf(key: string): Promise<ArrayBuffer> {
  const known = fetched.get(key) ?? begin(key);
  return (await known).slice(0);
}

/** Lets the sound be on its way while the pictures are drawn. */
export function prefetchSound(key: string): void {
  if (!fetched.has(key)) begin(key).catch(() => undefined);
}

function begin(key: string): Promise<ArrayBuffer> {
  const sound = fetchSound(key);
  fetched.set(key, sound);
  sound.catch(() => fetched.delete(key));
  const oldest = fetched.keys().next().value;
  if (fetched.size > REMEMBERED && oldest !== undefined) fetched.delete(oldest);
  return sound;
}

const fetchSound = (key: string): Promise<ArrayBuffer> =>
  queries.query({
    queryKey: ["sound", key],
    gcTime: 0,
    ...patient,
    queryFn: async () => {
      const answer = await fetch(`/api/renders/${key}/sound`).catch(() => undefined);
      if (!answer?.ok) throw new ApiError("The sound could not be fetched.", answer?.status ?? 0);
      return answer.arrayBuffer();
    },
  });
