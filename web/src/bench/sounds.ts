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

async function fetchSound(key: string): Promise<ArrayBuffer> {
  const answer = await fetch(`/api/renders/${key}/sound`);
  if (!answer.ok) throw new Error(`The server answered ${answer.status}.`);
  return answer.arrayBuffer();
}
