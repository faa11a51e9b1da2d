import { useLate } from "../ui/useLate";
import { useKeeping } from "./drafts";

/** Whether everything is kept: shown at all times, and never before it is true. */
export function SaveState({ updatedAt }: { updatedAt: string | undefined }) {
  const keeping = useKeeping();
  const late = useLate(keeping.state === "keeping", 700);
  if (keeping.state === "failed" || keeping.state === "conflict" || keeping.state === "gone") {
    const elsewhere = keeping.state === "gone" ? "Deleted elsewhere." : "Changed elsewhere.";
    const message = keeping.state === "failed" ? keeping.message : elsewhere;
    return (
      <span data-keeping={keeping.state} className="font-medium text-warn">
        Not kept yet. {message}
      </span>
    );
  }
  if (keeping.state === "keeping") {
    return (
      <span data-keeping="keeping" className="text-soft">
        {late ? "Keeping…" : "…"}
      </span>
    );
  }
  const at = keeping.at ?? updatedAt;
  const time = at && new Date(at).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  return (
    <span data-keeping="kept" className="text-ok">
      Everything kept{time ? `, ${time}` : ""}
    </span>
  );
}
