import { useQuery } from "@tanstack/react-query";
import Bowser from "bowser";
import { type SubmitEvent, useState } from "react";

import { client, got, type SignIn } from "../api/client";
import { queries, useSession } from "../api/queries";
import { Guarded } from "../ui/Guarded";
import { Header } from "../ui/Header";
import { GroundChoice } from "../ui/GroundChoice";
import { dayAndTime } from "../ui/times";
import { Failed } from "../ui/Waiting";
import { EndForm } from "./EndForm";
import { Entry } from "./Entry";
import { Mine } from "./Mine";
import { signOut, signOutEverywhere } from "./signOut";
import { messageOf } from "../api/messageOf";

/** One's own account: who one is, where one is signed in, and another password. */
export function AccountScreen() {
  const me = useSession().data?.me;
  const signIns = useQuery({
    queryKey: ["sign-ins"],
    queryFn: () => got(client.GET("/api/account/sessions")),
    staleTime: 0,
  });
  return (
    <div className="flex h-full flex-col">
      <Header places={[{ label: "Shelf", to: "/shelf", here: false }]} />
      <main className="flex-1 overflow-y-auto">
        <div className="mx-auto w-full max-w-4xl px-8 pt-10 pb-8">
          <h1 className="font-read text-title font-semibold tracking-tight">{me?.name}</h1>
          <p className="mt-1 mb-8 text-soft">
            {me?.role}, signs in as {me?.sign_in}
          </p>
          <div className="grid grid-cols-[minmax(0,1fr)_320px] gap-14 narrow:grid-cols-1 narrow:gap-8">
            <section aria-labelledby="signed-in">
              <h2 id="signed-in" className="mb-3 font-read text-head font-semibold">
                Signed in
              </h2>
              {signIns.error && (
                <Failed message={signIns.error.message} retry={() => void signIns.refetch()} />
              )}
              <ul className="border-b border-rule">
                {signIns.data?.map((one, place) => (
                  <Row key={place} signIn={one} />
                ))}
              </ul>
              <div className="mt-4 flex gap-3">
                <button type="button" className="button" onClick={() => void signOut()}>
                  Sign out here
                </button>
                <button type="button" className="button" onClick={() => void signOutEverywhere()}>
                  Sign out everywhere
                </button>
              </div>
              <Guarded what="What is yours">
                <Mine />
              </Guarded>
              <Guarded what="The way to leave">
                <EndForm educator={me?.role === "educator"} />
              </Guarded>
            </section>
            <div>
              <div className="mb-8">
                <GroundChoice />
              </div>
              <PasswordForm signIn={me?.sign_in ?? ""} />
            </div>
          </div>
        </div>
      </main>
    </div>
  );
}

function Row({ signIn }: { signIn: SignIn }) {
  return (
    <li className="border-t border-rule py-2">
      <div className="truncate" title={signIn.browser}>
        {signIn.here && <b className="mr-2 font-semibold text-this">This browser</b>}
        {nameOf(signIn.browser)}
      </div>
      <div className="text-note text-soft">
        since {dayAndTime(signIn.begun_at)}, last used {dayAndTime(signIn.used_at)}
      </div>
    </li>
  );
}

/** A browser as people call it, from what it says of itself. */
function nameOf(said: string): string {
  if (!said) return "A browser that does not say what it is";
  const { browser, os } = Bowser.parse(said);
  return [browser.name, os.name].filter(Boolean).join(" on ") || said;
}

function PasswordForm({ signIn }: { signIn: string }) {
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  const [said, setSaid] = useState<{ text: string; warn: boolean }>();
  const change = (event: SubmitEvent) => {
    event.preventDefault();
    got(client.PUT("/api/account/password", { body: { old, new: fresh } })).then(
      () => {
        setOld("");
        setFresh("");
        setSaid({ text: "The password is changed. All other browsers are signed out.", warn: false });
        void queries.invalidateQueries({ queryKey: ["sign-ins"] });
      },
      (error: unknown) => setSaid({ text: messageOf(error), warn: true }),
    );
  };
  return (
    <form onSubmit={change}>
      <h2 className="mb-3 font-read text-head font-semibold">Another password</h2>
      {/* for those who let their browser remember passwords */}
      <input type="text" hidden autoComplete="username" value={signIn} readOnly />
      <Entry
        label="Present password"
        type="password"
        autoComplete="current-password"
        value={old}
        onChange={setOld}
      />
      <Entry
        label="New password"
        type="password"
        autoComplete="new-password"
        help="At least ten characters."
        value={fresh}
        onChange={setFresh}
      />
      {said && (
        <p role={said.warn ? "alert" : "status"} className={`mb-3 ${said.warn ? "text-warn" : "text-ok"}`}>
          {said.text}
        </p>
      )}
      <button type="submit" className="button" disabled={!old || !fresh}>
        Change it
      </button>
    </form>
  );
}
