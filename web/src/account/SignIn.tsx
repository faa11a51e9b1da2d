import { type SubmitEvent, useState } from "react";

import { client, got, type Session } from "../api/client";
import { changeSession } from "../api/queries";
import { messageOf } from "../ui/messageOf";
import { Segments } from "../ui/Segments";
import { Entry } from "./Entry";

type Role = NonNullable<Session["me"]>["role"];

const ROLES: { value: Role; word: string }[] = [
  { value: "learner", word: "learner" },
  { value: "educator", word: "educator" },
];

/** Where one signs in, or makes an account. */
export function SignIn({ demo }: { demo: Session["demo"] }) {
  const admission = useAdmission();
  return (
    <main className="mx-auto grid min-h-full max-w-4xl grid-cols-[1fr_360px] items-center gap-16 px-8 narrow:grid-cols-1 narrow:content-start narrow:gap-6 narrow:px-4 narrow:py-6">
      <div>
        <h1 className="font-read text-title font-semibold tracking-tight">Inner Tone</h1>
        <p className="mt-4 max-w-md font-read text-head leading-relaxed">
          Lessons in sound synthesis, in which every sound and every picture can be made again: exactly here,
          and measurably anywhere else.
        </p>
        {demo.length > 0 && <DemoAccounts demo={demo} admission={admission} />}
      </div>
      <SignInForm admission={admission} />
    </main>
  );
}

/** Signing in, or making an account. */
function useAdmission() {
  const [failure, setFailure] = useState<string>();
  const [busy, setBusy] = useState(false);
  const admit = (answer: Promise<Session>) => {
    setBusy(true);
    setFailure(undefined);
    answer.then(changeSession, (error: unknown) => {
      setFailure(messageOf(error));
      setBusy(false);
    });
  };
  return {
    failure,
    busy,
    forgive: () => setFailure(undefined),
    signIn: (sign_in: string, password: string) =>
      admit(got(client.POST("/api/account/session", { body: { sign_in, password } }))),
    make: (body: { sign_in: string; name: string; password: string; role: Role }) =>
      admit(got(client.POST("/api/account", { body }))),
  };
}

type Admission = ReturnType<typeof useAdmission>;

function DemoAccounts({ demo, admission }: { demo: Session["demo"]; admission: Admission }) {
  return (
    <section aria-label="The demo’s accounts" className="mt-8 max-w-md border-t border-rule pt-4">
      <p className="mb-3 text-soft">This is the demo, with one account of each kind:</p>
      <ul>
        {demo.map((one) => (
          <li key={one.sign_in} className="mb-2 flex items-baseline gap-4">
            <button
              type="button"
              className="button w-52 text-left"
              disabled={admission.busy}
              onClick={() => admission.signIn(one.sign_in, one.password)}
            >
              {one.name}, {one.role}
            </button>
            <span className="text-soft">
              {one.sign_in}, “{one.password}”
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function SignInForm({ admission }: { admission: Admission }) {
  const { failure, busy } = admission;
  const [making, setMaking] = useState(false);
  const [entered, setEntered] = useState({ sign_in: "", name: "", password: "" });
  const [role, setRole] = useState<Role>("learner");
  const enter = (name: keyof typeof entered) => (text: string) => setEntered({ ...entered, [name]: text });
  const submit = (event: SubmitEvent) => {
    event.preventDefault();
    if (making) admission.make({ ...entered, name: entered.name || entered.sign_in, role });
    else admission.signIn(entered.sign_in, entered.password);
  };
  return (
    <form className="rounded border border-rule bg-leaf p-6" onSubmit={submit}>
      <h2 className="mb-4 font-read text-head font-semibold">{making ? "A new account" : "Sign in"}</h2>
      <Entry
        label="Sign-in name"
        autoComplete="username"
        value={entered.sign_in}
        onChange={enter("sign_in")}
      />
      {making && (
        <Entry
          label="Your name, as others see it"
          autoComplete="name"
          value={entered.name}
          onChange={enter("name")}
        />
      )}
      <Entry
        label="Password"
        type="password"
        autoComplete={making ? "new-password" : "current-password"}
        help={making ? "At least ten characters." : undefined}
        value={entered.password}
        onChange={enter("password")}
      />
      {making && <Segments label="I am a" options={ROLES} value={role} onChange={setRole} />}
      {failure && (
        <p role="alert" className="mt-3 text-warn">
          {failure}
        </p>
      )}
      <button type="submit" className="button-strong mt-5 w-full" disabled={busy}>
        {making ? "Make the account" : "Sign in"}
      </button>
      <button
        type="button"
        className="act mt-4"
        onClick={() => {
          setMaking(!making);
          admission.forgive();
        }}
      >
        {making ? "I have an account" : "Make an account"}
      </button>
    </form>
  );
}
