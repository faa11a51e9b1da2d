import { type Heard, LONGEST_S } from "./useMicrophone";

/** How long the microphone has listened, and whether it hears anything. */
export function Listening({ heard }: { heard: Heard }) {
  return (
    <p className="mt-1.5 tabular-nums" data-recorded-s={heard.seconds}>
      Listening: {heard.seconds} s of at most {LONGEST_S} s{heard.silent && "; nothing is heard"}
    </p>
  );
}
