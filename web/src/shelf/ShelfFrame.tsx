import type { UseQueryResult } from "@tanstack/react-query";
import type { ReactNode } from "react";

import { Header } from "../ui/Header";
import { Failed, Waiting } from "../ui/Waiting";
import { SearchField } from "./SearchField";

interface Props<T> {
  lessons: UseQueryResult<T>;
  words: string;
  onWords: (words: string) => void;
  children: (lessons: T) => ReactNode;
}

/** What both shelves share: waiting for the lessons, the title, and the search. */
export function ShelfFrame<T>({ lessons, words, onWords, children }: Props<T>) {
  return (
    <div className="flex h-full flex-col">
      <Header />
      {lessons.error && !lessons.data && (
        <Failed message={lessons.error.message} retry={() => void lessons.refetch()} />
      )}
      {lessons.isPending && <Waiting>Fetching the lessons…</Waiting>}
      {lessons.data !== undefined && (
        <main className="flex-1 overflow-y-auto">
          <div className="mx-auto flex w-full max-w-4xl flex-col px-8 pt-10 pb-8 narrow:px-4 narrow:pt-5">
            <div className="mb-6 flex flex-wrap items-end justify-between gap-x-8 gap-y-3">
              <h1 className="font-read text-title font-semibold tracking-tight">Lessons</h1>
              <SearchField words={words} onChange={onWords} />
            </div>
            {children(lessons.data)}
          </div>
        </main>
      )}
    </div>
  );
}
