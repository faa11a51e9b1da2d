import { type SubmitEvent, useState } from "react";

import { client, got } from "../api/client";
import { messageOf } from "../api/messageOf";
import { refreshJoined } from "./classes";

/** Where one joins a class by its code. */
export function JoinEntry() {
  const [code, setCode] = useState("");
  const [said, setSaid] = useState<{ text: string; warn: boolean }>();
  const join = (event: SubmitEvent) => {
    event.preventDefault();
    got(client.POST("/api/joined", { body: { code } })).then(
      (found) => {
        setCode("");
        setSaid({ text: `You are in “${found.title}” now.`, warn: false });
        void refreshJoined();
      },
      (error: unknown) => setSaid({ text: messageOf(error), warn: true }),
    );
  };
  return (
    <form onSubmit={join} className="mt-4 border-t border-rule pt-5" aria-label="Join a class">
      <div className="flex flex-wrap items-end gap-4">
        <label>
          <span className="mb-1 block text-soft">The code of a class</span>
          <input
            className="w-44 border-b border-firm bg-transparent py-1 font-read text-head tracking-wide uppercase focus:bg-leaf"
            maxLength={40}
            autoCapitalize="characters"
            autoComplete="off"
            spellCheck={false}
            value={code}
            onChange={(event) => setCode(event.target.value)}
          />
        </label>
        <button type="submit" className="button" disabled={!code.trim()}>
          Join
        </button>
        <p className="max-w-md flex-1 text-note text-soft">
          Whoever teaches the class then sees your name, how far you are in its lessons, what you make there
          at your own bench, and what you ask. The other members see nothing of it.
        </p>
      </div>
      {said && (
        <p role={said.warn ? "alert" : "status"} className={`mt-2 ${said.warn ? "text-warn" : ""}`}>
          {said.text}
        </p>
      )}
    </form>
  );
}
