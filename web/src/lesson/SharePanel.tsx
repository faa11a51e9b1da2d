import { useQuery } from "@tanstack/react-query";
import { type SubmitEvent, useState } from "react";

import { client, got, type Lesson, type Share } from "../api/client";
import { queries } from "../api/queries";
import { messageOf } from "../api/messageOf";
import { EducatorEntry } from "../ui/EducatorEntry";
import { Failure } from "../ui/Failure";
import { Panel } from "../ui/Panel";
import { Segments } from "../ui/Segments";

const RIGHTS = [
  { value: "read" as const, word: "for reading" },
  { value: "write" as const, word: "for writing too" },
];

/** With whom a lesson is shared. */
export function SharePanel({ lesson, onClose }: { lesson: Lesson; onClose: () => void }) {
  const { shares, share, unshare, failure } = useShares(lesson);
  const own = lesson.right === "own";
  return (
    <Panel title={`Who writes “${lesson.title}”`} onClose={onClose}>
      <div className="overflow-y-auto px-4 pt-2 pb-4">
        <p className="mb-2">
          It belongs to <b className="font-semibold">{lesson.owner}</b>
          {own ? " (you)." : "."}
        </p>
        {shares?.length === 0 && <p className="mb-2 text-soft">It is shared with nobody yet.</p>}
        <ul className="mb-4">
          {shares?.map((one) => (
            <li key={one.account} className="flex items-baseline gap-4 border-t border-rule py-1.5">
              <span className="flex-1">
                {one.name} <span className="text-soft">({one.sign_in})</span>
              </span>
              {own ? (
                <OwnShare
                  share={one}
                  onChange={(mayWrite) => share(one.sign_in, mayWrite)}
                  onEnd={() => unshare(one)}
                />
              ) : (
                <span>{one.may_write ? "for writing too" : "for reading"}</span>
              )}
            </li>
          ))}
        </ul>
        {own && <ShareForm onShare={share} />}
        <Failure said={failure} className="mt-3" />
      </div>
    </Panel>
  );
}

type DoShare = (signIn: string, mayWrite: boolean, done?: () => void) => void;

function useShares(lesson: Lesson) {
  const [failure, setFailure] = useState<string>();
  const key = ["shares", lesson.id];
  const path = { lesson_id: lesson.id };
  const address = "/api/lessons/{lesson_id}/shares";
  const shares = useQuery({
    queryKey: key,
    queryFn: () => got(client.GET(address, { params: { path } })),
  }).data;
  const attempt = (action: Promise<Share[]>, done?: () => void) => {
    setFailure(undefined);
    action.then(
      (found) => {
        queries.setQueryData(key, found);
        done?.();
      },
      (error: unknown) => setFailure(messageOf(error)),
    );
  };
  const share: DoShare = (sign_in, may_write, done) =>
    attempt(got(client.PUT(address, { params: { path }, body: { sign_in, may_write } })), done);
  const unshare = ({ account }: Share) => {
    const params = { path: { ...path, account_id: account } };
    const ended = got(client.DELETE("/api/lessons/{lesson_id}/shares/{account_id}", { params }));
    attempt(ended.then(() => (shares ?? []).filter((other) => other.account !== account)));
  };
  return { shares, share, unshare, failure };
}

interface OwnShareProps {
  share: Share;
  onChange: (mayWrite: boolean) => void;
  onEnd: () => void;
}

function OwnShare({ share, onChange, onEnd }: OwnShareProps) {
  return (
    <>
      <Segments
        label=""
        options={RIGHTS}
        value={share.may_write ? "write" : "read"}
        onChange={(value) => onChange(value === "write")}
      />
      <button
        type="button"
        aria-label={`Share with ${share.name} no longer`}
        className="act-away"
        onClick={onEnd}
      >
        No longer
      </button>
    </>
  );
}

function ShareForm({ onShare }: { onShare: DoShare }) {
  const [name, setName] = useState("");
  const [right, setRight] = useState<"read" | "write">("read");
  const submit = (event: SubmitEvent) => {
    event.preventDefault();
    onShare(name.trim(), right === "write", () => setName(""));
  };
  return (
    <form className="border-t border-rule pt-3" onSubmit={submit}>
      <EducatorEntry className="w-full bg-paper" value={name} onChange={setName} />
      <Segments label="Share" options={RIGHTS} value={right} onChange={setRight} />
      <button type="submit" className="button-strong mt-3" disabled={!name.trim()}>
        Share it
      </button>
    </form>
  );
}
