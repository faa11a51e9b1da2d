import { Link } from "react-router";

/** The title of a lesson on a list, which opens it. */
export function LessonLink({ to, title }: { to: string; title: string }) {
  return (
    <h2 className="font-read text-head font-semibold">
      <Link to={to} className="hover:text-this">
        {title}
      </Link>
    </h2>
  );
}
