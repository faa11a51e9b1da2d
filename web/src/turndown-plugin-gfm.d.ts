declare module "@joplin/turndown-plugin-gfm" {
  import type { Plugin } from "turndown";

  export const tables: Plugin;
}
