import { useState } from "react";
import { Link, useNavigate } from "react-router";

import { type ClassHead, client, got } from "../api/client";
import { TitleEntry } from "../ui/TitleEntry";
import { Header } from "../ui/Header";
import { messageOf } from "../api/messageOf";
import { Notice } from "../ui/Notice";
import { Failed, Waiting } from "../ui/Waiting";
import { spoken, useClasses } from "./classes";
import { counted } from "../ui/counted";
import { JoinedClasses } from "./JoinedClasses";
import { JoinEntry } from "./JoinEntry";

/** The classes that one teaches, and those that one has joined. */
export function ClassesScreen() {
  const classes = useClasses();
  return (
    <div className="flex h-full flex-col">
      <Header />
      {classes.error && !classes.data && (
        <Failed message={classes.error.message} retry={() => void classes.refetch()} />
      )}
      {classes.isPending && <Waiting>Fetching the classes…</Waiting>}
      {classes.data && (
        <main className="flex-1 overflow-y-auto">
          <div className="mx-auto w-full max-w-4xl px-8 pt-10 pb-8 narrow:px-4 narrow:pt-5">
            <h1 className="mb-6 font-read text-title font-semibold tracking-tight">Classes</h1>
            <Taught classes={classes.data} />
            <JoinedClasses />
            <JoinEntry />
          </div>
        </main>
      )}
    </div>
  );
}

function Taught({ classes }: { classes: ClassHead[] }) {
  const [title, setTitle] = useState("");
  const [failure, setFailure] = useState<string>();
  const navigate = useNavigate();
  const begin = (named: string) => {
    got(client.POST("/api/classes", { body: { title: named } })).then(
      (made) => navigate(`/classes/${made.id}`),
      (error: unknown) => setFailure(messageOf(error)),
    );
  };
  return (
    <section aria-label="Classes that you teach" className="mb-10">
      {classes.length === 0 && (
        <p className="mb-5 max-w-2xl font-read text-read text-soft italic">
          Begin a class, and say its code aloud: whoever types it is in. You set lessons, and see during the
          lesson at which step people stand, what stops them, and what they ask.
        </p>
      )}
      <ul>
        {classes.map((one) => (
          <li key={one.id} className="grid grid-cols-[1fr_auto] gap-x-8 border-t border-rule py-4">
            <div>
              <Link to={`/classes/${one.id}`} className="font-read text-head font-semibold hover:text-this">
                {one.title}
              </Link>
              <p className="mt-1 text-soft">
                {counted(one.members, "member")}, {counted(one.lessons, "lesson")}
                {one.waiting > 0 && (
                  <>
                    {"; "}
                    <span className="font-semibold text-warn">
                      {one.waiting === 1 ? "a question waits" : `${one.waiting} questions wait`}
                    </span>
                  </>
                )}
              </p>
            </div>
            <span className="self-center font-read text-head whitespace-nowrap text-soft" title="The code">
              {spoken(one.code)}
            </span>
          </li>
        ))}
      </ul>
      <TitleEntry
        label="A new class"
        title={title}
        onTitle={setTitle}
        word="Begin the class"
        onBegin={begin}
      />
      {failure && (
        <Notice warn onClose={() => setFailure(undefined)}>
          {failure}
        </Notice>
      )}
    </section>
  );
}
