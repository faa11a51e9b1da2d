import { Link } from "react-router";

interface Props {
  to: string;
  title: string;
  /** Its place in the series under whose title it stands. */
  number?: number | undefined;
}

/** The title of a lesson on a list, which opens it. */
export function LessonLink({ to, title, number }: Props) {
  const Heading = number === undefined ? "h2" : "h3";
  return (
    <Heading className={`font-read font-semibold ${number === undefined ? "text-head" : "text-read"}`}>
      {number !== undefined && (
        <span className="mr-2 inline-block w-5 text-right font-work font-normal text-soft tabular-nums">
          {number}
        </span>
      )}
      <Link to={to} className="hover:text-this">
        {title}
      </Link>
    </Heading>
  );
}
