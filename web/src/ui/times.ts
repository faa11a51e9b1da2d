import { rules } from "../api/rules";

/** A day, as “24 November”. */
export const day = (at: string): string =>
  new Date(at).toLocaleDateString("en-GB", { day: "numeric", month: "long" });

/** A day that has no time, as it is in a calendar: it is the same wherever one is. */
export const calendarDay = (date: string): string => day(`${date}T12:00`);

/** What is said of a day of which something is missing. */
export const NOT_WHOLE = "This is no whole date yet: it takes a day, a month and a year.";

/** What is wrong with a day that somebody has typed, as 2026-12-08; nothing where it can be meant. */
export function wrongDate(date: string): string | undefined {
  const [year, first, last] = [date, rules.dates.first, rules.dates.last].map((one) =>
    Number(one.split("-")[0]),
  );
  if (date === "" || year === undefined || first === undefined || last === undefined) return undefined;
  if (year >= first && year <= last) return undefined;
  return `The year ${year} cannot be meant: write it in full, from ${first} to ${last}.`;
}

/** A day and a time, as “24 November, 18:05”. */
export const dayAndTime = (at: string): string =>
  `${day(at)}, ${new Date(at).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}`;
