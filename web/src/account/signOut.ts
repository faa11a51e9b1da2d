import { client, got } from "../api/client";
import { changeSession } from "../api/queries";
import { drafts } from "../lesson/drafts";

async function leave(end: () => Promise<unknown>): Promise<void> {
  await drafts.settled().catch(() => undefined); // what cannot be kept is held until one signs in again
  await end();
  changeSession(await got(client.GET("/api/account/session")));
}

/** Shows what there is for somebody whose account has ended. */
export const signedOut = () => leave(() => Promise.resolve());

/** Signs this browser out, when everything is kept. */
export const signOut = () => leave(() => got(client.DELETE("/api/account/session")));

/** Signs every browser out, when everything is kept. */
export const signOutEverywhere = () => leave(() => got(client.DELETE("/api/account/sessions")));
