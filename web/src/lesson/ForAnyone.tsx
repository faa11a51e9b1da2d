import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { client, got, type Lesson } from "../api/client";
import { ended } from "../api/jobs";
import { queries } from "../api/queries";
import { messageOf } from "../api/messageOf";
import { Failure } from "../ui/Failure";

/** A lesson for anyone: the edition that is open, its link, and where it is opened and withdrawn. */
export function ForAnyone({ lesson, newest }: { lesson: Lesson; newest: number }) {
  const { open, withdraw, part, failure, found } = useOpening(lesson);
  const writes = lesson.right === "own" || lesson.right === "write";
  if (found.isPending || (!found.data && !writes)) return null;
  const address = found.data && `${window.location.origin}/open/${found.data.link}`;
  return (
    <section
      aria-label="For anyone"
      className="mb-3 border border-rule bg-paper px-3 py-2"
      data-open={found.data?.number}
    >
      {found.data && address ? (
        <>
          <p>Anyone who has the link sees edition {found.data.number}, without an account:</p>
          <a href={address} target="_blank" rel="noreferrer" className="link break-all">
            {address}
          </a>
        </>
      ) : (
        <p>Only people with an account see this lesson. You can open it to anyone who has a link.</p>
      )}
      {part !== undefined ? (
        <progress
          aria-label="How much of the page is made"
          className="mt-2 block h-1.5 w-full"
          value={part}
        />
      ) : (
        writes && (
          <div className="mt-1.5 flex flex-wrap gap-x-4 gap-y-1">
            {found.data?.number !== newest && (
              <button type="button" className="act" onClick={() => open(newest)}>
                Open edition {newest} to anyone
              </button>
            )}
            {found.data && (
              <button type="button" className="act-away" onClick={withdraw}>
                Withdraw it
              </button>
            )}
          </div>
        )
      )}
      <Failure said={failure} />
    </section>
  );
}

/** What is open of a lesson; opening and withdrawing it. */
function useOpening(lesson: Lesson) {
  const [part, setPart] = useState<number>();
  const [failure, setFailure] = useState<string>();
  const queryKey = ["public", lesson.id];
  const params = { path: { lesson_id: lesson.id } };
  const found = useQuery({
    queryKey,
    queryFn: () => got(client.GET("/api/lessons/{lesson_id}/public", { params })),
  });
  const attempt = (action: Promise<unknown>) => {
    setFailure(undefined);
    action
      .catch((error: unknown) => setFailure(messageOf(error)))
      .finally(() => {
        setPart(undefined);
        void queries.invalidateQueries({ queryKey });
      });
  };
  const open = (number: number) => {
    setPart(0);
    const asked = got(client.POST("/api/lessons/{lesson_id}/public", { params, body: { number } }));
    attempt(asked.then((job) => ended(job, setPart)));
  };
  const withdraw = () => attempt(got(client.DELETE("/api/lessons/{lesson_id}/public", { params })));
  return { found, open, withdraw, part, failure };
}
