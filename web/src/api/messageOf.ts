/** What an error says, as a sentence for people. */
export const messageOf = (error: unknown, otherwise = "That did not work."): string =>
  error instanceof Error ? error.message : otherwise;
