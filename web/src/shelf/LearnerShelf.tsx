import { useState } from "react";

import type { Published } from "../api/client";
import { usePublished } from "../api/queries";
import { JoinedClasses } from "../classes/JoinedClasses";
import { JoinEntry } from "../classes/JoinEntry";
import { Guarded } from "../ui/Guarded";
import { InOrder } from "./InOrder";
import { isThrough, PublishedRow } from "./PublishedRow";
import { ShelfFrame } from "./ShelfFrame";

/** The lessons that can be practised; those that one has begun first. */
export function LearnerShelf() {
  const [words, setWords] = useState("");
  const published = usePublished(words);
  return (
    <ShelfFrame lessons={published} words={words} onWords={setWords}>
      {(lessons) => (
        <>
          {!words.trim() && (
            <Guarded what="The list of your classes">
              <JoinedClasses />
            </Guarded>
          )}
          {words.trim() ? (
            <Rows lessons={lessons} />
          ) : (
            <>
              <Part
                title="Where you are"
                lessons={lessons.filter((one) => isBegun(one) && !isThrough(one))}
              />
              <Part title="New for you" lessons={lessons.filter((one) => !isBegun(one))} />
              <Part title="Followed to the end" lessons={lessons.filter(isThrough)} />
            </>
          )}
          {lessons.length === 0 && (
            <p role="status" className="font-read text-read text-soft italic">
              {words.trim()
                ? "No lesson has all these words."
                : "Nothing is published yet. As soon as an educator publishes a lesson, it stands here."}
            </p>
          )}
          {!words.trim() && <JoinEntry />}
        </>
      )}
    </ShelfFrame>
  );
}

const isBegun = ({ begun }: Published) => begun !== null;

function Part({ title, lessons }: { title: string; lessons: Published[] }) {
  if (lessons.length === 0) return null;
  return (
    <section aria-label={title} className="mb-8">
      <h2 className="mb-2 text-read font-semibold text-soft">{title}</h2>
      <Rows lessons={lessons} />
    </section>
  );
}

const Rows = ({ lessons }: { lessons: Published[] }) => (
  <Guarded what="This list" until={[lessons]}>
    <InOrder
      rows={lessons}
      draw={(lesson, number) => <PublishedRow key={lesson.id} lesson={lesson} number={number} />}
    />
  </Guarded>
);
