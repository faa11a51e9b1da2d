import { useState } from "react";

import { usePublished } from "../api/queries";
import { PublishedRow } from "./PublishedRow";
import { ShelfFrame } from "./ShelfFrame";

/** The lessons that can be practised; those that one has begun first. */
export function LearnerShelf() {
  const [words, setWords] = useState("");
  const published = usePublished(words);
  return (
    <ShelfFrame lessons={published} words={words} onWords={setWords}>
      {(lessons) => (
        <>
          <ul>
            {lessons.map((lesson) => (
              <PublishedRow key={lesson.id} lesson={lesson} />
            ))}
          </ul>
          {lessons.length === 0 && (
            <p role="status" className="font-read text-read text-soft italic">
              {words.trim()
                ? "No lesson has all these words."
                : "Nothing is published yet. As soon as an educator publishes a lesson, it stands here."}
            </p>
          )}
        </>
      )}
    </ShelfFrame>
  );
}
