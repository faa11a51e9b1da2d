import { type SubmitEvent, useState } from "react";

import { client, got, type Session } from "../api/client";
import { changeSession } from "../api/queries";
import { messageOf } from "../api/messageOf";
import { Failure } from "../ui/Failure";
import { Segments } from "../ui/Segments";
import { Entry } from "./Entry";

type Role = NonNullable<Session["me"]>["role"];

const ROLES: { value: Role; word: string }[] = [
  { value: "learner", word: "learner" },
  { value: "educator", word: "educator" },
];

/** Where one signs in, or makes an account. */
export function SignIn({ demo, may }: { demo: Session["demo"]; may: Session["admission"] }) {
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
      {admission.made ? <Made session={admission.made} /> : <SignInForm admission={admission} may={may} />}
    </main>
  );
}

/** Signing in, or making an account. */
function useAdmission() {
  const [failure, setFailure] = useState<string>();
  const [busy, setBusy] = useState(false);
  const [made, setMade] = useState<Session>();
  const admit = (answer: Promise<Session>, then: (session: Session) => void) => {
    setBusy(true);
    setFailure(undefined);
    answer.then(then, (error: unknown) => {
      setFailure(messageOf(error));
      setBusy(false);
    });
  };
  return {
    failure,
    busy,
    made,
    forgive: () => setFailure(undefined),
    signIn: (sign_in: string, password: string) =>
      admit(got(client.POST("/api/account/session", { body: { sign_in, password } })), changeSession),
    make: (body: { sign_in: string; name: string; password: string; role: Role; invitation: string }) =>
      admit(got(client.POST("/api/account", { body })), setMade),
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

/** The account that was made: by which name one signs in, which is not quite the one that was wished. */
function Made({ session }: { session: Session }) {
  return (
    <section aria-label="The new account" className="rounded border border-rule bg-leaf p-6">
      <h2 className="mb-4 font-read text-head font-semibold">Your account is made</h2>
      <p className="text-soft">From now on you sign in as</p>
      <p className="my-2 font-read text-title font-semibold select-all">{session.me?.sign_in}</p>
      <p className="text-soft">Write it down: you need it, with your password, wherever you sign in.</p>
      <button
        type="button"
        autoFocus
        className="button-strong mt-5 w-full"
        onClick={() => changeSession(session)}
      >
        Go on
      </button>
    </section>
  );
}

function SignInForm({ admission, may }: { admission: Admission; may: Session["admission"] }) {
  const { failure, busy } = admission;
  const [making, setMaking] = useState(false);
  const [entered, setEntered] = useState({ sign_in: "", name: "", password: "", invitation: "" });
  const roles = ROLES.filter(({ value }) => may[value] !== "nobody");
  const [chosen, setRole] = useState<Role>("learner");
  const role = roles.some(({ value }) => value === chosen) ? chosen : (roles[0]?.value ?? "learner");
  const enter = (name: keyof typeof entered) => (text: string) => setEntered({ ...entered, [name]: text });
  const submit = (event: SubmitEvent) => {
    event.preventDefault();
    const invitation = may[role] === "invited" ? entered.invitation : "";
    if (making) admission.make({ ...entered, name: entered.name || entered.sign_in, role, invitation });
    else admission.signIn(entered.sign_in, entered.password);
  };
  return (
    <form className="rounded border border-rule bg-leaf p-6" onSubmit={submit}>
      <h2 className="mb-4 font-read text-head font-semibold">{making ? "A new account" : "Sign in"}</h2>
      <Entry
        label="Sign-in name"
        autoComplete="username"
        help={
          making && may[role] === "anyone"
            ? "A number comes behind it, so that it is yours alone."
            : undefined
        }
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
      <PasswordEntry making={making} value={entered.password} onChange={enter("password")} />
      {making && roles.length > 1 && (
        <Segments label="I am a" options={roles} value={role} onChange={setRole} />
      )}
      {making && may[role] === "invited" && (
        <InvitationEntry value={entered.invitation} onChange={enter("invitation")} />
      )}
      <Failure said={failure} className="mt-3" />
      <button type="submit" className="button-strong mt-5 w-full" disabled={busy}>
        {making ? "Make the account" : "Sign in"}
      </button>
      {roles.length > 0 && (
        <OtherWay
          making={making}
          onChoose={() => {
            setMaking(!making);
            admission.forgive();
          }}
        />
      )}
    </form>
  );
}

/** From signing in to making an account, and back. */
function OtherWay({ making, onChoose }: { making: boolean; onChoose: () => void }) {
  return (
    <button type="button" className="act mt-4" onClick={onChoose}>
      {making ? "I have an account" : "Make an account"}
    </button>
  );
}

interface PasswordEntryProps {
  making: boolean;
  value: string;
  onChange: (text: string) => void;
}

function PasswordEntry({ making, value, onChange }: PasswordEntryProps) {
  return (
    <Entry
      label="Password"
      type="password"
      autoComplete={making ? "new-password" : "current-password"}
      help={making ? "At least ten characters; three or four words of your own are best." : undefined}
      value={value}
      onChange={onChange}
    />
  );
}

function InvitationEntry({ value, onChange }: { value: string; onChange: (text: string) => void }) {
  return (
    <div className="mt-3">
      <Entry
        label="Invitation"
        autoComplete="off"
        help="The code that you were given. It counts once."
        value={value}
        onChange={onChange}
      />
    </div>
  );
}
