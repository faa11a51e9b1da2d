import { QueryClient, useQuery } from "@tanstack/react-query";

import { useSettled } from "./useSettled";
import {
  ApiError,
  carryToken,
  client,
  got,
  type Lesson,
  type Series,
  type Session,
  type KeptStep,
  whenPageIsOld,
  whenSignedOut,
} from "./client";

/**
 * How often it is asked again by itself: where nobody answers (0), where too much is asked at once, where work has ended,
 * and where a proxy has found nobody who answers (502, 504).
 */
const TRIES: Record<number, number> = { 0: 30, 429: 3, 502: 10, 503: 10, 504: 3 };

/** Asks again where it may help; the first time soon, since another node may answer at once. */
export const patient = {
  retry: (count: number, error: Error) => error instanceof ApiError && count < (TRIES[error.status] ?? 0),
  retryDelay: (count: number) => Math.min(3_000, 200 * 2 ** count),
};

export const queries = new QueryClient({ defaultOptions: { queries: { staleTime: 5_000, ...patient } } });

const SEARCH_PAUSE_MS = 200;
/** How often it is asked anew what others do, while somebody looks. */
export const LIVE_MS = 3_000;

const sessionKey = ["session"];
const askSession = () => got(client.GET("/api/account/session"));

/** Who is signed in, if anybody is. */
export const useSession = () =>
  useQuery({
    queryKey: sessionKey,
    staleTime: Infinity,
    queryFn: async () => {
      const session = await askSession();
      carryToken(session.token);
      return session;
    },
  });

/** Shows the pages of whoever has signed in, or out; what was fetched for somebody else is let go. */
export function changeSession(session: Session): void {
  const before = queries.getQueryData<Session>(sessionKey);
  carryToken(session.token);
  queries.setQueryData(sessionKey, session);
  if (session.me?.sign_in !== before?.me?.sign_in)
    queries.removeQueries({ predicate: (query) => query.queryKey[0] !== sessionKey[0] });
}

whenPageIsOld(async () => {
  const before = queries.getQueryData<Session>(sessionKey)?.me?.sign_in;
  const session = await askSession();
  changeSession(session);
  return session.me !== null && (before === undefined || session.me.sign_in === before);
});

whenSignedOut(() =>
  queries.setQueryData<Session>(sessionKey, (session) => session && { ...session, me: null, token: "" }),
);

const lessonKey = (id: string) => ["lesson", id];

export const useLessons = () =>
  useQuery({ queryKey: ["lessons"], queryFn: () => got(client.GET("/api/lessons")), staleTime: 0 });

/** The usual openings of a lesson. */
export const useTemplates = () =>
  useQuery({
    queryKey: ["templates"],
    queryFn: () => got(client.GET("/api/templates")),
    staleTime: Infinity,
  });

/** The lessons that can be practised; only such that have all words. */
export function usePublished(words: string) {
  const settled = useSettled(words.trim(), SEARCH_PAUSE_MS);
  return useQuery({
    queryKey: ["published", settled],
    staleTime: 0,
    placeholderData: (previous) => previous,
    queryFn: () => got(client.GET("/api/practice", { params: { query: { words: settled } } })),
  });
}

const learnersKey = (lessonId: string) => ["learners", lessonId];

/** Who does the steps of a lesson at benches of their own. */
export const useLearners = (lessonId: string) =>
  useQuery({
    queryKey: learnersKey(lessonId),
    staleTime: 0,
    queryFn: () =>
      got(client.GET("/api/lessons/{lesson_id}/learners", { params: { path: { lesson_id: lessonId } } })),
  });
export const refreshLearners = (lessonId: string) =>
  queries.invalidateQueries({ queryKey: learnersKey(lessonId) });

const seriesKey = (id: string) => ["series", id];

export const useSeriesList = () =>
  useQuery({ queryKey: ["series"], queryFn: () => got(client.GET("/api/series")), staleTime: 0 });
export const useSeries = (id: string) =>
  useQuery({
    queryKey: seriesKey(id),
    staleTime: 0,
    queryFn: () => got(client.GET("/api/series/{series_id}", { params: { path: { series_id: id } } })),
  });
export const refreshSeries = (id: string) => queries.invalidateQueries({ queryKey: seriesKey(id) });

/** Puts a series that the server has just sent in the place of the one that is shown. */
export const showSeries = (series: Series) => queries.setQueryData(seriesKey(series.id), series);

export const useLesson = (id: string) =>
  useQuery({
    queryKey: lessonKey(id),
    queryFn: () => got(client.GET("/api/lessons/{lesson_id}", { params: { path: { lesson_id: id } } })),
  });

/** The steps of one's lessons in which all words stand; those found last stay until others are. */
export function useSearch(words: string) {
  const settled = useSettled(words.trim(), SEARCH_PAUSE_MS);
  const asked = useQuery({
    queryKey: ["search", settled],
    enabled: settled.length > 1,
    placeholderData: (previous) => previous,
    queryFn: () => got(client.GET("/api/search", { params: { query: { words: settled } } })),
  });
  return {
    found: settled.length > 1 ? (asked.data ?? []) : [],
    busy: asked.isFetching || settled !== words.trim(),
  };
}

/** A lesson to be practised: as one has begun it or as it stands for who writes it; or in an edition that is asked for. */
export const usePractice = (id: string, edition: number | undefined, short: boolean | undefined) =>
  useQuery({
    queryKey: ["practice", id, edition, short],
    placeholderData: (previous) => (previous?.id === id ? previous : undefined),
    queryFn: () => {
      const path = { lesson_id: id };
      const query = short === undefined ? {} : { short };
      if (edition === undefined)
        return got(client.GET("/api/practice/{lesson_id}", { params: { path, query } }));
      const which = { ...path, number: edition };
      return got(
        client.GET("/api/lessons/{lesson_id}/editions/{number}", { params: { path: which, query } }),
      );
    },
  });
export const refreshPractice = (id: string) => queries.invalidateQueries({ queryKey: ["practice", id] });

export const useEditions = (id: string) =>
  useQuery({
    queryKey: ["editions", id],
    queryFn: () =>
      got(client.GET("/api/lessons/{lesson_id}/editions", { params: { path: { lesson_id: id } } })),
  });
export const refreshEditions = (id: string) =>
  Promise.all([["editions", id], ["lessons"]].map((queryKey) => queries.invalidateQueries({ queryKey })));

/** The module types do not change while the application runs. */
export const useCatalogue = () =>
  useQuery({ queryKey: ["modules"], queryFn: () => got(client.GET("/api/modules")), staleTime: Infinity });

/** The sections that have been kept for reuse. */
export const useSections = () =>
  useQuery({ queryKey: ["sections"], queryFn: () => got(client.GET("/api/sections")) });
export const refreshSections = () => queries.invalidateQueries({ queryKey: ["sections"] });

/** Asks anew for a lesson; done when it is shown, though other wishes may have taken the place of this one. */
export async function refreshLesson(id: string): Promise<void> {
  await queries.invalidateQueries({ queryKey: lessonKey(id) });
  const asked = () => queries.getQueryCache().find({ queryKey: lessonKey(id) });
  while (asked()?.state.fetchStatus === "fetching") await asked()?.promise?.catch(() => undefined);
}
export const refreshShelf = () => queries.invalidateQueries({ queryKey: ["lessons"] });

/** Puts a lesson that the server has just sent in the place of the one that is shown. */
export const showLesson = (lesson: Lesson) => queries.setQueryData(lessonKey(lesson.id), lesson);

/** The lesson as it is shown now. */
export const shownLesson = (id: string) => queries.getQueryData<Lesson>(lessonKey(id));

/** Puts a step that the server has just kept, and the one behind it, into the lesson that is shown. */
export async function showKept(lessonId: string, { following, later, ...step }: KeptStep): Promise<void> {
  const queryKey = lessonKey(lessonId);
  const isAsked = queries.isFetching({ queryKey }) > 0; // what it answers may be from before this
  if (isAsked) await queries.cancelQueries({ queryKey });
  queries.setQueryData<Lesson>(queryKey, (lesson) => {
    if (!lesson) return lesson;
    const now = new Map([step, ...(following ? [following] : [])].map((one) => [one.id, one]));
    return { ...lesson, steps: lesson.steps.map((one) => now.get(one.id) ?? one) };
  });
  if (later || isAsked) void refreshLesson(lessonId);
}
