import type { ReactNode } from "react";

import { useLate } from "./useLate";

/** What stands in the place of something that is on its way: nothing for a moment, then a word. */
export function Waiting({ children }: { children: ReactNode }) {
  const late = useLate(true);
  return (
    <main className="m-auto p-8">
      <h1 className="font-read text-read text-soft italic">{late ? children : null}</h1>
    </main>
  );
}

/** What stands in the place of something that could not be had. */
export function Failed({ message, retry }: { message: string; retry: () => void }) {
  return (
    <main className="m-auto max-w-md p-8 text-center">
      <h1 className="mb-3 font-read text-read text-warn">
        <span role="alert">{message}</span>
      </h1>
      <button type="button" className="button" onClick={retry}>
        Try again
      </button>
    </main>
  );
}
