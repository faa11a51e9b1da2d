import { create } from "zustand";

/** The number of the mark that somebody points at, in the text or at its place: it is lit at both. */
interface Lit {
  number: number | undefined;
}

const useStore = create<Lit>(() => ({ number: undefined }));

export const useIsLit = (number: number | null | undefined): boolean =>
  useStore((state) => typeof number === "number" && state.number === number);

const light = (number: number) => () => useStore.setState({ number });
const darken = () => useStore.setState({ number: undefined });

/** Lights a mark while its number is pointed at or has the focus. */
export const lighting = (number: number) => ({
  onPointerEnter: light(number),
  onPointerLeave: darken,
  onFocus: light(number),
  onBlur: darken,
});
