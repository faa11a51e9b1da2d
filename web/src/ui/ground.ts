import { create } from "zustand";
import { persist } from "zustand/middleware";

/** On what all is written: as the system has it, or as somebody wishes. */
export type Ground = "system" | "light" | "dark";

export const GROUNDS: Record<Ground, string> = { system: "As the system", light: "Light", dark: "Dark" };

interface Grounds {
  wish: Ground;
  systemIsDark: boolean;
  choose: (wish: Ground) => void;
}

const system = window.matchMedia("(prefers-color-scheme: dark)");

const grounds = create<Grounds>()(
  persist(
    (put) => ({
      wish: "system",
      systemIsDark: system.matches,
      choose: (wish) => put({ wish }),
    }),
    { name: "inner-tone/ground", partialize: ({ wish }) => ({ wish }) },
  ),
);

const darkOf = ({ wish, systemIsDark }: Grounds) => (wish === "system" ? systemIsDark : wish === "dark");

/** Whether the ground is dark. */
export const useIsDark = (): boolean => grounds(darkOf);

export const useGround = (): Pick<Grounds, "wish" | "choose"> => grounds();

/** Lets the page follow the choice and the system. */
export function followGround(): void {
  const show = (now: Grounds) => {
    document.documentElement.dataset["ground"] = darkOf(now) ? "dark" : "light";
  };
  system.addEventListener("change", () => grounds.setState({ systemIsDark: system.matches }));
  grounds.subscribe(show);
  show(grounds.getState());
}
