import * as Dialog from "@radix-ui/react-dialog";
import { type FormEvent, type ReactNode, useEffect, useRef, useState } from "react";
import { problemsOf, saying } from "../api/client";
import { type Me, useEntry } from "../api/entry";
import "./people.css";

/** Sends a form of the entrance, which needs no sign-in; what was wrong, in a sentence. */
export async function atTheDoor(
  path: string,
  body: object,
): Promise<{ data?: Me; problem?: string; wantsNumber?: boolean }> {
  const answer = await fetch(path, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(body),
  }).catch(() => null);
  const told = await answer?.json().catch(() => undefined);
  if (answer?.ok) return { data: told as Me };
  return { problem: saying(told), wantsNumber: problemsOf(told)[0]?.path === "the number" };
}

/** A page in the middle of an empty sheet: who comes in, or with what link. */
export function Gate(props: { title: string; children: ReactNode; over?: boolean }) {
  const name = (
    <p className="gate-name">
      <span className="mark" aria-hidden="true" /> Piastra
    </p>
  );
  // Over a page it has to be on top of whatever dialog is open there, with the keys and the pointer.
  if (props.over)
    return (
      <Dialog.Root open>
        <Dialog.Portal>
          <Dialog.Overlay className="gate over" />
          <Dialog.Content
            className="gate-sheet over"
            aria-describedby={undefined}
            onOpenAutoFocus={(e) => {
              // Who it was is known; the password is what is missing.
              e.preventDefault();
              (e.currentTarget as HTMLElement).querySelector<HTMLElement>("input[type=password]")?.focus();
            }}
            onEscapeKeyDown={(e) => e.preventDefault()}
            onInteractOutside={(e) => e.preventDefault()}
          >
            {name}
            <Dialog.Title>{props.title}</Dialog.Title>
            {props.children}
          </Dialog.Content>
        </Dialog.Portal>
      </Dialog.Root>
    );
  return (
    <main className="gate">
      <div className="gate-sheet">
        {name}
        <h1>{props.title}</h1>
        {props.children}
      </div>
    </main>
  );
}

/** A field of a gate's form. */
export function Field(props: {
  label: string;
  value: string;
  set: (value: string) => void;
  type?: string;
  complete: string;
  first?: boolean;
  hint?: string;
}) {
  const field = useRef<HTMLInputElement>(null);
  const [shown, setShown] = useState(false);
  const secret = props.type === "password";
  useEffect(() => {
    if (props.first) field.current?.focus();
  }, [props.first]);
  return (
    <label className="gate-field">
      <span>{props.label}</span>
      <span className="gate-input">
        <input
          ref={field}
          aria-label={props.label}
          type={secret && shown ? "text" : (props.type ?? "text")}
          autoComplete={props.complete}
          value={props.value}
          onChange={(e) => props.set(e.target.value)}
        />
        {secret && (
          <button type="button" className="link" aria-pressed={shown} onClick={() => setShown(!shown)}>
            {shown ? "Hide" : "Show"}
          </button>
        )}
      </span>
      {props.hint && <small>{props.hint}</small>}
    </label>
  );
}

/** The number of a second factor, or a spare code. */
export function NumberOf(props: { value: string; set: (value: string) => void }) {
  return (
    <Field
      label="Number of the second factor"
      complete="one-time-code"
      value={props.value}
      set={props.set}
      first
      hint="Your authenticator shows it; a spare code does as well."
    />
  );
}

/** What is asked of who comes: nothing while it is not known who sits here, then an e-mail address and its password. */
export function Entrance({ children }: { children: ReactNode }) {
  const state = useEntry((e) => e.state);
  const ask = useEntry((e) => e.ask);
  const known = useEntry((e) => e.me?.person != null);
  const [opened, setOpened] = useState(false);
  useEffect(() => {
    if (state !== "asking") return;
    void ask();
    // The server may be on its way up.
    const again = setInterval(() => void ask(), 2000);
    return () => clearInterval(again);
  }, [state, ask]);
  useEffect(() => {
    if (state === "in") setOpened(true);
  }, [state]);
  if (state === "asking") return <p className="opening">Piastra is being opened …</p>;
  return (
    <>
      {(opened || state === "in") && children}
      {state === "out" && <SignIn again={known || opened} />}
    </>
  );
}

function SignIn({ again }: { again: boolean }) {
  const take = useEntry((e) => e.take);
  const demo = useEntry((e) => e.me?.demo);
  const asDesigner = useEntry((e) => e.demo);
  const before = useEntry((e) => e.me?.person?.email);
  const [email, setEmail] = useState(before ?? "");
  const [password, setPassword] = useState("");
  // Asked for once the password is right and its account has a second factor.
  const [number, setNumber] = useState<string | null>(null);
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);
  const [tries, setTries] = useState(0);
  const send = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    const {
      data,
      problem: told,
      wantsNumber,
    } = await atTheDoor("/api/sign-in", { email, password, number: number ?? "" });
    setBusy(false);
    if (wantsNumber) return setNumber("");
    setPassword("");
    // Who was asked for a number is asked for it beside the password from now on.
    setNumber((n) => (n === null ? null : ""));
    setTries((n) => n + 1);
    setProblem(told ?? "");
    if (data) take(data);
  };
  return (
    <Gate title={again ? "Sign in again" : "Sign in"} over={again}>
      {again && <p className="quiet">What you changed is kept and sent once you are signed in.</p>}
      <form onSubmit={(e) => void send(e)}>
        <Field label="E-mail" type="email" complete="username" value={email} set={setEmail} first={!before} />
        <Field
          key={tries}
          label="Password"
          type="password"
          complete="current-password"
          value={password}
          set={setPassword}
          first={Boolean(before) || tries > 0}
        />
        {number !== null && <NumberOf value={number} set={setNumber} />}
        {problem && (
          <p className="error" role="alert">
            {problem}
          </p>
        )}
        <button type="submit" className="accent" disabled={busy || !email || !password}>
          Sign in
        </button>
      </form>
      {demo && (
        <button type="button" className="link" onClick={() => void asDesigner()}>
          Open the demo as its designer
        </button>
      )}
      <p className="quiet">
        No account, or the password forgotten? Whoever looks after Piastra in your practice sends you a link.
      </p>
    </Gate>
  );
}
