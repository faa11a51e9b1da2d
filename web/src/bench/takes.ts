import type { Patch, Phrase, RenderWish } from "../api/client";
import { settingsSince } from "../api/changes";

interface Take {
  patch: Patch;
  phrase: Phrase;
  key: string;
}

const REMEMBERED = 8;

/** What the server has rendered lately, so that a wish need only say what is new since. */
class Takes {
  private known: Take[] = [];

  note(take: Take): void {
    const others = this.known.filter((one) => one.key !== take.key);
    this.known = [take, ...others].slice(0, REMEMBERED);
  }

  forget(): void {
    this.known = [];
  }

  /** The same wish, with the keys of takes in the place of patches and phrases where they are known. */
  brief(wish: RenderWish): RenderWish {
    const { patch, phrase, behind, ...rest } = wish;
    const since = patch && phrase && this.since(patch, phrase);
    const played = since ? { since } : { patch: patch ?? null, phrase: phrase ?? null };
    return { ...rest, ...played, behind: (behind && this.briefBehind(behind)) ?? null };
  }

  private since(patch: Patch, phrase: Phrase): RenderWish["since"] {
    for (const take of this.known) {
      const settings = take.phrase === phrase ? settingsSince(take.patch, patch) : undefined;
      if (settings) return { take: take.key, settings, company: phrase.company };
    }
    return undefined;
  }

  private briefBehind(behind: NonNullable<RenderWish["behind"]>): RenderWish["behind"] {
    const { patch, phrase, ...rest } = behind;
    const take = this.known.find((one) => one.patch === patch && one.phrase === phrase);
    return take ? { ...rest, take: take.key } : behind;
  }
}

export const takes = new Takes();
