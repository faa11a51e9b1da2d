import { type SubmitEvent, useState } from "react";
import { useNavigate } from "react-router";

import { type Class, client, got } from "../api/client";
import { messageOf } from "../api/messageOf";
import { EducatorEntry } from "../ui/EducatorEntry";
import type { Changes } from "./classes";

interface Props {
  found: Class;
  changes: Changes;
}

/** Who teaches the class too, and its end. */
export function Teaching({ found, changes }: Props) {
  const [owner, ...others] = found.educators;
  return (
    <section aria-labelledby="teaching" className="mt-10">
      <h2 id="teaching" className="mb-1 font-read text-head font-semibold">
        Who teaches it
      </h2>
      <ul>
        <li className="border-t border-rule py-1.5">{owner?.name}, who began it</li>
        {others.map((one) => (
          <li key={one.account} className="flex border-t border-rule py-1.5">
            <span className="flex-1">{one.name}</span>
            {found.is_own && (
              <button
                type="button"
                className="act-away"
                aria-label={`${one.name} teaches it no longer`}
                onClick={() => void changes.without("educators", one.account)}
              >
                No longer
              </button>
            )}
          </li>
        ))}
      </ul>
      {found.is_own && (
        <>
          <ShareForm changes={changes} />
          <EndOfClass found={found} changes={changes} />
        </>
      )}
    </section>
  );
}

function ShareForm({ changes }: Pick<Props, "changes">) {
  const [name, setName] = useState("");
  const share = (event: SubmitEvent) => {
    event.preventDefault();
    void changes.teach(name.trim()).then(() => setName(""));
  };
  return (
    <form onSubmit={share} className="mt-2 flex flex-wrap items-end gap-3">
      <EducatorEntry className="w-64 bg-leaf" value={name} onChange={setName} />
      <button type="submit" className="button" disabled={!name.trim()}>
        Teach it together
      </button>
    </form>
  );
}

function EndOfClass({ found, changes }: Props) {
  const [ending, setEnding] = useState(false);
  const navigate = useNavigate();
  const end = () => {
    const params = { path: { class_id: found.id } };
    got(client.DELETE("/api/classes/{class_id}", { params })).then(
      () => navigate("/classes"),
      (error: unknown) => changes.fail(messageOf(error)),
    );
  };
  return (
    <p className="mt-10 flex items-center gap-3">
      {ending ? (
        <>
          <span>What its members have made stays theirs. Delete the class?</span>
          <button type="button" className="button-strong" onClick={end}>
            Delete it
          </button>
          <button type="button" className="button" onClick={() => setEnding(false)}>
            Keep it
          </button>
        </>
      ) : (
        <button type="button" className="act-away" onClick={() => setEnding(true)}>
          Delete the class…
        </button>
      )}
    </p>
  );
}
