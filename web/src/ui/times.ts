/** A day, as “24 November”. */
export const day = (at: string): string =>
  new Date(at).toLocaleDateString("en-GB", { day: "numeric", month: "long" });

/** A day and a time, as “24 November, 18:05”. */
export const dayAndTime = (at: string): string =>
  `${day(at)}, ${new Date(at).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}`;
