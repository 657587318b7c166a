import { create } from "zustand";
import type { components } from "./generated";

export type Me = components["schemas"]["Me"];
export type Person = components["schemas"]["PersonState"];
export type Role = Person["roles"][string];

type Entry = {
  me: Me | null;
  /** Whether it is known who sits here: not yet, nobody (the page waits for a sign-in), or somebody. */
  state: "asking" | "out" | "in";
  /** The first time and after a sign-in elsewhere: ask the server who this browser is. Where the demo is shown, who comes is its designer,
   * unless he has signed out or comes by a link. */
  ask: () => Promise<void>;
  /** Come in as the demo's designer. */
  demo: () => Promise<void>;
  /** What was answered to a sign-in or an accepted invitation. */
  take: (me: Me) => void;
  /** The sign-in is over: what is asked for meanwhile waits until somebody is signed in again. */
  lost: () => void;
};

/** Who is signed in on this page. */
export const useEntry = create<Entry>((set, get) => ({
  me: null,
  state: "asking",
  ask: async () => {
    const answer = await fetch("/api/me").catch(() => null);
    if (!answer?.ok) return;
    const me = (await answer.json()) as Me;
    if (me.person) get().take(me);
    else if (me.demo && get().state === "asking" && !location.pathname.startsWith("/join") && !leftDemo())
      await get().demo();
    // Whose page this was is kept: another person's begins anew.
    else set({ me: { ...me, person: get().me?.person ?? null }, state: "out" });
  },
  demo: async () => {
    const answer = await fetch("/api/sign-in/demo", { method: "POST" }).catch(() => null);
    leaveDemo(false);
    if (answer?.ok) get().take((await answer.json()) as Me);
    else set({ state: "out" });
  },
  take: (me) => {
    const before = get().me?.person;
    // Another person's page begins anew: what waits on this one is not his.
    if (before && me.person && before.id !== me.person.id) location.reload();
    else set({ me, state: "in" });
  },
  lost: () => set({ state: "out" }),
}));

const LEFT = "piastra-left";
const leftDemo = () => sessionStorage.getItem(LEFT) !== null;
/** Who signs out of the demo is not signed in again by the page itself. */
export const leaveDemo = (left: boolean) => (left ? sessionStorage.setItem(LEFT, "") : sessionStorage.removeItem(LEFT));

/** Resolves when somebody signs in. */
function signedIn(): Promise<void> {
  return new Promise((done) => {
    const stop = useEntry.subscribe((entry) => {
      if (entry.state !== "in") return;
      stop();
      done();
    });
  });
}

/**
 * `fetch` of what is the person's own: names the guard of the sign-in, and where that is over waits for the next one and asks again, so that
 * nothing that was typed is lost.
 */
export async function fetchOwn(input: RequestInfo | URL, init?: RequestInit): Promise<Response> {
  const send = (guard: string) => {
    const headers = new Headers(input instanceof Request ? input.headers : init?.headers);
    headers.set("x-piastra-guard", guard);
    // A request is spent once its body is sent: it may be needed again.
    return fetch(input instanceof Request ? input.clone() : input, { ...init, headers });
  };
  for (let tries = 0; ; tries++) {
    // Who is in waits for nothing, not even for the turn of what draws the page.
    if (useEntry.getState().state !== "in") await signedIn();
    const { me, lost, ask } = useEntry.getState();
    const guard = me?.guard ?? "";
    const answer = await send(guard);
    if (answer.status === 401) {
      lost();
      await ask();
      continue;
    }
    if (answer.status === 403 && tries === 0) {
      // Signed in anew on another page of this browser: the guard is another one.
      await ask();
      if (useEntry.getState().me?.guard !== guard) continue;
    }
    return answer;
  }
}

const RANK: Role[] = ["reader", "checker", "designer", "owner"];

/** Whether a role may do what takes at least another one. */
export const reaches = (role: Role | undefined, least: Role): boolean =>
  role !== undefined && RANK.indexOf(role) >= RANK.indexOf(least);
