import { useState } from "react";
import { Link, useNavigate } from "react-router";

import { client, got, type Series } from "../api/client";
import { TitleEntry } from "../ui/TitleEntry";
import { messageOf } from "../api/messageOf";

interface Props {
  series: Series[];
  onFailure: (message: string) => void;
}

/** An educator's series, and where one begins another. */
export function SeriesList({ series, onFailure }: Props) {
  const [title, setTitle] = useState("");
  const navigate = useNavigate();
  const begin = (named: string) => {
    got(client.POST("/api/series", { body: { title: named, summary: "" } })).then(
      (made) => navigate(`/series/${made.id}`),
      (error: unknown) => onFailure(messageOf(error)),
    );
  };
  return (
    <section className="mt-10" aria-labelledby="series">
      <h2 id="series" className="mb-2 font-read text-head font-semibold">
        Series
      </h2>
      <ul>
        {series.map((one) => (
          <li key={one.id} className="border-t border-rule py-3">
            <Link to={`/series/${one.id}`} className="font-read text-head font-semibold hover:text-this">
              {one.title}
            </Link>
            <p className="text-soft">
              {one.lessons.length} {one.lessons.length === 1 ? "lesson" : "lessons"}
              {one.lessons.some((lesson) => lesson.moved_on) && (
                <span className="text-warn">; a lesson can follow the one before it</span>
              )}
            </p>
          </li>
        ))}
      </ul>
      <TitleEntry
        label="A new series"
        title={title}
        onTitle={setTitle}
        word="Begin the series"
        onBegin={begin}
      />
    </section>
  );
}
