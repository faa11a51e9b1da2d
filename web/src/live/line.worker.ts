/** The line to the server: it carries sound to the output and words to the page, and comes back when it was lost. */

interface Connect {
  address: string;
  token: string;
  output: MessagePort;
}

export type ToLine = { connect: Connect } | { say: string } | { close: true };
export type FromLine =
  | { what: "here"; goesOn: boolean }
  | { what: "lost" }
  | { what: "over"; code: number; text: string }
  | { what: "words"; words: Record<string, unknown> };

const WANTED = 3;
const SOUND = 16;
const WAITS_MS = [150, 300, 600, 1200, 2400, 4800, 9600];

let wish: Connect | undefined;
let socket: WebSocket | undefined;
let session: string | undefined;
let tries = 0;
let ended = false;

const tell = (words: FromLine) => self.postMessage(words);

self.onmessage = ({ data }: MessageEvent<ToLine>) => {
  if ("connect" in data) {
    wish = data.connect;
    ended = false;
    wish.output.onmessage = ({ data: until }: MessageEvent<number>) => want(until);
    connect();
  } else if ("say" in data) {
    if (socket?.readyState === WebSocket.OPEN) socket.send(data.say);
  } else {
    ended = true;
    if (socket?.readyState === WebSocket.OPEN) socket.send('{"kind":"close"}');
    socket?.close();
  }
};

function want(until: number): void {
  if (socket?.readyState !== WebSocket.OPEN || session === undefined) return;
  const frame = new DataView(new ArrayBuffer(9));
  frame.setUint8(0, WANTED);
  frame.setBigUint64(1, BigInt(Math.max(0, until)));
  socket.send(frame.buffer);
}

function connect(): void {
  if (!wish) return;
  const line = new WebSocket(wish.address);
  line.binaryType = "arraybuffer";
  socket = line;
  line.onopen = () => line.send(JSON.stringify({ kind: "hello", token: wish?.token, session }));
  line.onmessage = ({ data }: MessageEvent<string | ArrayBuffer>) => {
    if (socket !== line) return;
    if (typeof data === "string") hear(JSON.parse(data) as Record<string, unknown>);
    else carry(data);
  };
  line.onclose = () => {
    if (socket === line) lost();
  };
}

function carry(data: ArrayBuffer): void {
  const head = new DataView(data);
  if (head.getUint8(0) !== SOUND) return;
  const first = Number(head.getBigUint64(1));
  const sound = new Float32Array(data.slice(9));
  wish?.output.postMessage({ first, sound }, [sound.buffer]);
}

function hear(words: Record<string, unknown>): void {
  if (words.kind === "welcome") {
    session = words.session as string;
    tries = 0;
    const goesOn = words.goes_on === true;
    if (!goesOn) wish?.output.postMessage({ anew: true });
    tell({ what: "here", goesOn });
  } else if (words.kind === "over") {
    ended = true;
    tell({ what: "over", code: words.code as number, text: words.text as string });
  } else tell({ what: "words", words });
}

/** Comes back, later and later; at last it gives up. */
function lost(): void {
  if (ended) return;
  tell({ what: "lost" });
  const wait = WAITS_MS[tries++];
  if (wait === undefined) {
    ended = true;
    tell({ what: "over", code: 0, text: "Inner Tone’s server does not answer." });
  } else setTimeout(connect, wait);
}
