/** Something that can be done at the bench: by its key, and from the menu or the list of keys. */
export interface Command {
  id: string;
  words: string;
  keys: string[];
  group: "build" | "listen" | "look" | "files" | "back";
  run: () => void;
  /** Whether it can be done now. */
  possible: boolean;
}

/** The commands of a group; what is always possible need not say so. */
export const inGroup = (
  group: Command["group"],
  commands: (Omit<Command, "group" | "possible"> & { possible?: boolean })[],
): Command[] => commands.map((one) => ({ possible: true, ...one, group }));

export const keyTable = (commands: Command[]): Record<string, (() => void) | undefined> =>
  Object.fromEntries(
    commands.flatMap((one) => one.keys.map((key) => [key, one.possible ? one.run : undefined])),
  );

export const GROUPS: Record<Command["group"], string> = {
  build: "Build",
  listen: "Listen",
  look: "Look",
  files: "Files",
  back: "Back and forth",
};

/** A key as people read it. */
export const keyText = (key: string): string => (key === "+" ? key : key.replaceAll("+", " "));
