import { useQuery } from "@tanstack/react-query";
import { type SubmitEvent, useState } from "react";

import { client, got } from "../api/client";
import { Failure } from "../ui/Failure";
import { counted } from "../ui/counted";
import { messageOf } from "../api/messageOf";
import { Entry } from "./Entry";
import { signedOut } from "./signOut";

/** The end of an account, with all that was made with it. */
export function EndForm({ educator }: { educator: boolean }) {
  const [open, setOpen] = useState(false);
  const [password, setPassword] = useState("");
  const [heir, setHeir] = useState("");
  const [failure, setFailure] = useState<string>();
  const gone = useQuery({
    queryKey: ["goes"],
    enabled: open && educator,
    staleTime: 0,
    queryFn: () => got(client.GET("/api/account/kept")),
  }).data;
  const end = (event: SubmitEvent) => {
    event.preventDefault();
    const body = { password, heir: heir.trim() || null };
    got(client.POST("/api/account/end", { body })).then(
      () => void signedOut(),
      (error: unknown) => setFailure(messageOf(error)),
    );
  };
  return (
    <form onSubmit={end} className="mt-10">
      <h2 className="mb-3 font-read text-head font-semibold">Delete this account</h2>
      <p className="mb-3 font-read">
        What you have made at your own benches, your recordings and your questions go with it. It cannot be
        undone.
      </p>
      {open ? (
        <>
          {gone && gone.lessons + gone.classes > 0 && <Goes {...gone} />}
          {educator && (
            <Entry
              label="Hand lessons and classes to"
              help="The sign-in name of another educator. Leave it empty to delete them."
              autoComplete="off"
              value={heir}
              onChange={setHeir}
            />
          )}
          <Entry
            label="Your password"
            type="password"
            autoComplete="current-password"
            value={password}
            onChange={setPassword}
          />
          <Failure said={failure} className="mb-3" />
          <Buttons possible={password !== ""} onKeep={() => setOpen(false)} />
        </>
      ) : (
        <button type="button" className="button" onClick={() => setOpen(true)}>
          Delete…
        </button>
      )}
    </form>
  );
}

/** What an educator takes along. */
function Goes({ lessons, classes, others }: { lessons: number; classes: number; others: number }) {
  return (
    <p className="mb-3 font-read text-warn" data-goes>
      {counted(lessons, "lesson")} and {counted(classes, "class", "classes")} go too, unless you hand them to
      somebody.
      {others > 0 &&
        ` ${others} ${others === 1 ? "other has" : "others have"} begun your lessons; what they have made in them would be gone.`}
    </p>
  );
}

function Buttons({ possible, onKeep }: { possible: boolean; onKeep: () => void }) {
  return (
    <div className="flex gap-3">
      <button type="submit" className="button-strong" disabled={!possible}>
        Delete it
      </button>
      <button type="button" className="button" onClick={onKeep}>
        Keep it
      </button>
    </div>
  );
}
