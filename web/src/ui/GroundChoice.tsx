import { type Ground, GROUNDS, useGround } from "./ground";
import { Segments } from "./Segments";

const OPTIONS = Object.entries(GROUNDS).map(([value, word]) => ({ value: value as Ground, word }));

/** On what somebody wants to read: a light ground or a dark one. */
export function GroundChoice() {
  const { wish, choose } = useGround();
  return <Segments label="Ground" options={OPTIONS} value={wish} onChange={choose} />;
}
