/** A day, as “24 November”. */
export const day = (at: string): string =>
  new Date(at).toLocaleDateString("en-GB", { day: "numeric", month: "long" });

/** A day that has no time, as it is in a calendar: it is the same wherever one is. */
export const calendarDay = (date: string): string => day(`${date}T12:00`);

/** A day and a time, as “24 November, 18:05”. */
export const dayAndTime = (at: string): string =>
  `${day(at)}, ${new Date(at).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}`;
