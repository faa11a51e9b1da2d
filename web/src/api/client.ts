import createClient from "openapi-fetch";
import type { Readable } from "openapi-typescript-helpers";

import type { components, paths } from "./schema";

/** As answers have them: the client turns tuples into arrays. */
type Schemas = Readable<components["schemas"]>;

export type LessonRow = Schemas["LessonRow"];
export type Lesson = Schemas["LessonOut"];
export type Step = Schemas["StepOut"];
export type StepContent = Schemas["StepContent"];
export type Instruction = Schemas["InstructionOut"];
export type Patch = Schemas["Patch"];
export type Module = Schemas["Module"];
export type Connection = Schemas["Connection"];
export type Section = Schemas["Section"];
export type Edit = Schemas["EditWish"]["edits"][number];
export type Ends = Schemas["Ends"];
export type Offer = Schemas["OfferOut"];
export type Placement = Schemas["PlacementOut"];
export type Picture = Schemas["PictureOut"];
export type Finding = Schemas["FindingOut"];
export type Listening = Schemas["Listening"];
export type KeptSection = Schemas["SectionOut"];
export type Phrase = Schemas["Phrase"];
export type SetValue = Schemas["SetValue"];
export type KeptStep = Schemas["KeptStepOut"];
export type StepPart = Schemas["StepPart"];
export type ModuleType = Schemas["ModuleTypeOut"];
export type ChoiceType = ModuleType["choices"][number];
export type InputType = Schemas["InputOut"];
export type RulerType = Schemas["RulerOut"];
export type RowType = Schemas["RowOut"];
export type NumberType = Schemas["NumberOut"];
export type OutputType = Schemas["OutputOut"];
export type Value = NonNullable<Module["settings"]>[string];
export type Render = Schemas["RenderOut"];
export type RenderWish = Schemas["RenderWish"];
export type Moment = NonNullable<Schemas["StepContent"]["moment"]>;
export type LensWish = NonNullable<RenderWish["lenses"]>[number];
export type Chart = Schemas["Chart"];
export type ChartPanel = Schemas["Panel"];
export type Axis = Schemas["Axis"];
export type Trace = Schemas["Trace"];
export type Mark = Schemas["Mark"];
export type Raster = Schemas["Raster"];
export type Behind = Schemas["Behind"];
export type Recipe = Schemas["Recipe"];
export type Plate = Schemas["Plate"];
export type Detour = StepContent["detours"][number];
export type StepState = Schemas["StepState"];
export type Measure = Schemas["MeasureOut"];

export type Session = Schemas["SessionOut"];
export type SignIn = Schemas["SignInOut"];
export type TextLink = Schemas["LinkOut"];
export type Edition = Schemas["EditionOut"];
export type Job = Schemas["JobOut"];
export type Class = Schemas["ClassOut"];
export type ClassHead = Schemas["ClassHead"];
export type ClassMember = Schemas["MemberOut"];
export type ClassWork = Schemas["ClassWorkOut"];
export type AtWork = Schemas["AtWork"];
export type StepAtWork = Schemas["StepIn"];
export type Joined = Schemas["JoinedOut"];
export type SetLesson = Schemas["SetWish"];
export type HandWish = Schemas["HandWish"];
export type BundlePreview = Schemas["PreviewOut"];
export type BundledLesson = Schemas["BundleOut"];
export type Concern = Schemas["ConcernOut"];
export type Revision = Schemas["RevisionOut"];
export type Series = Schemas["SeriesOut"];
export type Published = Schemas["PublishedOut"];
export type FoundStep = Schemas["FoundStepOut"];
export type Wording = Schemas["Wording"];
export type Share = Schemas["ShareOut"];
export type Here = Schemas["HereOut"];
export type StepLenses = NonNullable<StepContent["lenses"]>;
export type Clash = Schemas["ClashOut"];
export type Attempt = Schemas["AttemptOut"];
export type OwnBench = Schemas["OwnBench"];
export type Near = Schemas["NearOut"];
export type Ticked = Schemas["TickedOut"];
export type Hint = Schemas["HintOut"];
export type SoundNear = Schemas["SoundOut"];
export type Figure = Schemas["FigureOut"];
export type Advice = Schemas["AdviceOut"];
export type Question = Schemas["QuestionOut"];
export type CompanyPart = Phrase["company"][number];
export type SamplerSound = Schemas["SamplerSoundOut"];
export type SoundFacts = Schemas["SoundFacts"];
export type PlayedSound = Schemas["PlayedOut"];
export type Standing = Schemas["StandingOut"];
export type Learner = Schemas["LearnerOut"];
export type Midi = Schemas["MidiOut"];
export type StepMark = StepContent["marks"][number];
export type MarkPlace = StepMark["at"];
export type LensPlace = Extract<MarkPlace, { kind: "lens" }>;
export type Aim = NonNullable<StepContent["aim"]>;

const TOKEN_HEADER = "X-Inner-Tone-Token";

let pageToken = "";
let signedOut: () => void = () => undefined;
let askAnew: () => Promise<boolean> = () => Promise.resolve(false);

/** Takes the token that every change has to carry, as proof that it comes from this page. */
export const carryToken = (token: string): void => {
  pageToken = token;
};

/** The token that every change carries: what does not go by requests shows it too. */
export const pageTokenNow = (): string => pageToken;

/** Says what is to be done when an answer tells that nobody is signed in any longer. */
export const whenSignedOut = (action: () => void): void => {
  signedOut = action;
};

/** Says how the page learns its token anew; the promise tells whether the same person is signed in still. */
export const whenPageIsOld = (action: () => Promise<boolean>): void => {
  askAnew = action;
};

/** Whether an answer refuses a change because the page is from before the present sign-in. */
async function isOldPage(answer: Response): Promise<boolean> {
  if (answer.status !== 403) return false;
  return ((await answer.clone().json()) as Schemas["ProblemDetails"]).type === "old-page";
}

/** Sends a request with the token of the page, and notices when nobody is signed in any longer. */
async function sendOnce(request: Request): Promise<Response> {
  const carried = pageToken;
  if (carried) request.headers.set(TOKEN_HEADER, carried);
  const answer = await window.fetch(request);
  // What was asked before somebody signed in again says nothing about who is signed in now.
  const tells = carried === pageToken && !request.url.endsWith("/api/account/session");
  if (answer.status === 401 && tells) signedOut();
  return answer;
}

/** Sends a request; once more if the same person has signed in again since the page learnt its token. */
async function send(request: Request): Promise<Response> {
  const again = request.clone();
  const answer = await sendOnce(request);
  return (await isOldPage(answer)) && (await askAnew()) ? sendOnce(again) : answer;
}

export const client = createClient<paths>({ baseUrl: "/", fetch: send });

/** An answer that was not what was asked for; status 0 if there was no answer at all. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
    /** What is to be decided before it can be done. */
    readonly clashes: Clash[] = [],
  ) {
    super(message);
  }
}

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** Returns the data of an answer, or throws an ApiError that says what went wrong in a sentence. */
export async function got<T>(answer: Promise<Answer<T>>): Promise<T> {
  const { data, error, response } = await answer.catch((reason: unknown) => {
    if (reason instanceof DOMException && reason.name === "AbortError") throw reason;
    throw new ApiError("Inner Tone’s server does not answer.", 0);
  });
  if (response.ok) return data as T;
  const problem = (error ?? {}) as { detail?: string; clashes?: Clash[] };
  throw new ApiError(
    problem.detail ?? `The server answered ${response.status}.`,
    response.status,
    problem.clashes,
  );
}

/**
 * A file as the body of a request, sent as it is; what an address takes as bytes its type cannot say. It is read before
 * it is sent: a file that is gone would else be told as a server that does not answer. Throws an Error that says so.
 */
export async function sentAs(file: File) {
  const bytes = await file.arrayBuffer().catch(() => {
    throw new Error(
      `“${file.name}” cannot be read. It was moved or changed since it was chosen: choose it again.`,
    );
  });
  return {
    body: bytes as never,
    bodySerializer: (body: unknown) => body as BodyInit,
    headers: { "Content-Type": "application/octet-stream" },
  };
}
