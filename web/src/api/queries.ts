import { QueryClient, useQuery } from "@tanstack/react-query";

import { ApiError, client, got, type Lesson, type Step } from "./client";

export const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      retry: (count, error) => error instanceof ApiError && error.status === 0 && count < 30,
      retryDelay: (count) => Math.min(3_000, 400 * 2 ** count),
    },
  },
});

const lessonKey = (id: string) => ["lesson", id];

export const useLessons = () =>
  useQuery({ queryKey: ["lessons"], queryFn: () => got(client.GET("/api/lessons")), staleTime: 0 });

export const useLesson = (id: string) =>
  useQuery({
    queryKey: lessonKey(id),
    queryFn: () => got(client.GET("/api/lessons/{lesson_id}", { params: { path: { lesson_id: id } } })),
  });

/** The module types do not change while the application runs. */
export const useCatalogue = () =>
  useQuery({ queryKey: ["modules"], queryFn: () => got(client.GET("/api/modules")), staleTime: Infinity });

/** The sections that have been kept for reuse. */
export const useSections = () =>
  useQuery({ queryKey: ["sections"], queryFn: () => got(client.GET("/api/sections")) });
export const refreshSections = () => queries.invalidateQueries({ queryKey: ["sections"] });

export const refreshLesson = (id: string) => queries.invalidateQueries({ queryKey: lessonKey(id) });
export const refreshShelf = () => queries.invalidateQueries({ queryKey: ["lessons"] });

/** Puts a lesson that the server has just sent in the place of the one that is shown. */
export const showLesson = (lesson: Lesson) => queries.setQueryData(lessonKey(lesson.id), lesson);

/** Puts a step that the server has just kept into the lesson that is shown; its instructions follow by refreshing. */
export function showStep(lessonId: string, step: Step): void {
  queries.setQueryData<Lesson>(lessonKey(lessonId), (lesson) =>
    lesson
      ? {
          ...lesson,
          steps: lesson.steps.map((one) =>
            one.id === step.id ? { ...step, instructions: one.instructions } : one,
          ),
        }
      : lesson,
  );
}
