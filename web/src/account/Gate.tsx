import type { ReactNode } from "react";

import { useSession } from "../api/queries";
import { Failed, Waiting } from "../ui/Waiting";
import { SignIn } from "./SignIn";

/** Lets those in who are signed in; the address stays, so that one is where one wanted to be afterwards. */
export function Gate({ children }: { children: ReactNode }) {
  const session = useSession();
  if (session.error && !session.data)
    return <Failed message={session.error.message} retry={() => void session.refetch()} />;
  if (!session.data) return <Waiting>Opening Inner Tone…</Waiting>;
  return session.data.me ? children : <SignIn demo={session.data.demo} may={session.data.admission} />;
}
