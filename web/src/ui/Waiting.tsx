import type { ReactNode } from "react";

import { useLate } from "./useLate";

/** What stands in the place of something that is on its way: nothing for a moment, then a word. */
export function Waiting({ children }: { children: ReactNode }) {
  const late = useLate(true);
  return <p className="m-auto p-8 font-read text-lg text-soft italic">{late ? children : null}</p>;
}

/** What stands in the place of something that could not be had. */
export function Failed({ message, retry }: { message: string; retry: () => void }) {
  return (
    <div role="alert" className="m-auto max-w-md p-8 text-center">
      <p className="mb-3 font-read text-lg text-warn">{message}</p>
      <button type="button" className="button" onClick={retry}>
        Try again
      </button>
    </div>
  );
}
