import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { type Class, client, got } from "../api/client";
import { LIVE_MS, queries } from "../api/queries";
import { messageOf } from "../api/messageOf";

export const useClasses = () =>
  useQuery({ queryKey: ["classes"], queryFn: () => got(client.GET("/api/classes")), staleTime: 0 });

const classKey = (id: string) => ["class", id];

export const useClass = (id: string) =>
  useQuery({
    queryKey: classKey(id),
    staleTime: 0,
    queryFn: () => got(client.GET("/api/classes/{class_id}", { params: { path: { class_id: id } } })),
  });
const showClass = (found: Class) => queries.setQueryData(classKey(found.id), found);
const refreshClass = (id: string) => queries.invalidateQueries({ queryKey: classKey(id) });

const workKey = (classId: string, lessonId: string) => ["class", classId, lessonId];

/** A class in one of its lessons, as it is now. */
export const useWork = (classId: string, lessonId: string) =>
  useQuery({
    queryKey: workKey(classId, lessonId),
    staleTime: 0,
    refetchInterval: LIVE_MS,
    queryFn: () => {
      const path = { class_id: classId, lesson_id: lessonId };
      return got(client.GET("/api/classes/{class_id}/lessons/{lesson_id}", { params: { path } }));
    },
  });
export const refreshWork = (classId: string, lessonId: string) =>
  queries.invalidateQueries({ queryKey: workKey(classId, lessonId) });

export const useJoined = () =>
  useQuery({ queryKey: ["joined"], queryFn: () => got(client.GET("/api/joined")), staleTime: 0 });
export const refreshJoined = () => queries.invalidateQueries({ queryKey: ["joined"] });

type Change = Partial<Pick<Class, "title" | "open" | "lessons">>;

/** What can be done with a class; what fails is said, and the class fetched anew. */
export function useChanges(found: Class) {
  const [failure, setFailure] = useState<string>();
  const path = { class_id: found.id };
  const attempt = (action: Promise<Class | undefined>) => {
    setFailure(undefined);
    return action.then(
      (now) => (now ? showClass(now) : refreshClass(found.id)),
      (error: unknown) => {
        setFailure(messageOf(error));
        return refreshClass(found.id);
      },
    );
  };
  const change = (part: Change) => {
    const { version, title, open, lessons } = { ...found, ...part };
    const body = { version, title, open, lessons: lessons.map(({ id, due }) => ({ lesson: id, due })) };
    return attempt(got(client.PUT("/api/classes/{class_id}", { params: { path }, body })));
  };
  const renewCode = () => attempt(got(client.POST("/api/classes/{class_id}/code", { params: { path } })));
  const teach = (sign_in: string) =>
    attempt(got(client.PUT("/api/classes/{class_id}/educators", { params: { path }, body: { sign_in } })));
  const without = (kind: "educators" | "members", account_id: string) => {
    const params = { path: { ...path, account_id } };
    const gone =
      kind === "members"
        ? got(client.DELETE("/api/classes/{class_id}/members/{account_id}", { params }))
        : got(client.DELETE("/api/classes/{class_id}/educators/{account_id}", { params }));
    return attempt(gone.then(() => undefined));
  };
  return {
    change,
    renewCode,
    teach,
    without,
    failure,
    fail: setFailure,
    dismiss: () => setFailure(undefined),
  };
}

export type Changes = ReturnType<typeof useChanges>;

/** A code in groups, as it is said aloud. */
export const spoken = (code: string): string => `${code.slice(0, 3)} ${code.slice(3)}`;
