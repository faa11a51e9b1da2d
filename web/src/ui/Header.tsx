import type { ReactNode } from "react";
import { Link, useLocation } from "react-router";

import { useSession } from "../api/queries";

interface ScreenLink {
  label: string;
  to: string;
  here: boolean;
}

interface Props {
  title?: ReactNode;
  status?: ReactNode;
  places?: ScreenLink[];
}

const SHELF = { label: "Shelf", to: "/shelf" };
/** The screens from which all others are reached. */
const SCREENS = { educator: [SHELF, { label: "Classes", to: "/classes" }], learner: [SHELF] };

/** The line at the top of every screen: where one is, whether all is kept, and where one can go. */
export function Header({ title, status, places: given }: Props) {
  const me = useSession().data?.me;
  const { pathname } = useLocation();
  const places =
    given ?? SCREENS[me?.role ?? "learner"].map((one) => ({ ...one, here: one.to === pathname }));
  return (
    <header className="off-paper flex min-h-12 shrink-0 items-center gap-4 border-b border-rule px-5 narrow:gap-2 narrow:px-3">
      <Link
        to="/shelf"
        className={`font-read text-head font-semibold tracking-tight whitespace-nowrap ${title ? "narrow:hidden" : ""}`}
      >
        Inner Tone
      </Link>
      <div className="flex min-w-0 flex-1 items-center gap-2 overflow-hidden text-soft">{title}</div>
      <div role="status" className="text-work narrow:hidden">
        {status}
      </div>
      <nav aria-label="Screens" className="flex h-12 gap-5 narrow:gap-3">
        {places.map((place) => (
          <Link
            key={place.to}
            to={place.to}
            aria-current={place.here ? "page" : undefined}
            className={`flex items-center border-b-2 pt-0.5 ${
              place.here ? "border-ink text-ink" : "border-transparent text-soft hover:text-ink"
            }`}
          >
            {place.label}
          </Link>
        ))}
      </nav>
      {me && (
        <Link
          to="/account"
          className="max-w-40 truncate border-l border-rule pl-4 text-soft hover:text-ink narrow:max-w-16 narrow:pl-2"
          title="Your account"
        >
          {me.name}
        </Link>
      )}
    </header>
  );
}
