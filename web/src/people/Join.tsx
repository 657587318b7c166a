import { type FormEvent, useEffect, useState } from "react";
import { problemsOf } from "../api/client";
import { useEntry } from "../api/entry";
import type { components } from "../api/generated";
import { atTheDoor, Field, Gate, NumberOf } from "./Entrance";

type Invited = components["schemas"]["Invited"];

const A: Record<string, string> = {
  owner: "an owner",
  designer: "a designer",
  checker: "a checker",
  reader: "a reader",
};

const SHORTEST = 12;
/** How far a password that is being typed has come. */
function enough(password: string): string {
  const missing = SHORTEST - [...password].length;
  if (!password) return `${SHORTEST} characters or more; a sentence is easy to keep in mind.`;
  return missing > 0 ? `${missing} more character${missing === 1 ? "" : "s"}` : "Long enough; longer is better.";
}

/** The page of a link: what it lets into, and as whom. The link's secret stands behind the # and is sent in bodies alone. */
export function Join() {
  const secret = location.hash.slice(1);
  const { me, state, ask, take } = useEntry();
  const [found, setFound] = useState<Invited | null>(null);
  const [over, setOver] = useState("");
  const [name, setName] = useState("");
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  const [number, setNumber] = useState<string | null>(null);
  const [problem, setProblem] = useState("");
  useEffect(() => {
    void ask();
    void fetch("/api/invitations/look", {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({ secret }),
    })
      .then(async (answer) => {
        const told = await answer.json();
        if (answer.ok) setFound(told as Invited);
        else setOver(problemsOf(told)[0]?.sentence ?? "");
      })
      .catch(() => setOver("the server does not answer; load the page anew in a moment"));
  }, [ask, secret]);

  const person = state === "in" ? me?.person : null;
  const own = found?.kind === "password";
  const accept = async (event: FormEvent) => {
    event.preventDefault();
    const given = own
      ? { password, number: number ?? "" }
      : person
        ? {}
        : { name: name.trim(), email: email.trim(), password };
    const headers = person && !own ? { "x-piastra-guard": me?.guard ?? "" } : undefined;
    const answer: Awaited<ReturnType<typeof atTheDoor>> = headers
      ? await accepted(secret, headers)
      : await atTheDoor("/api/invitations/accept", { secret, ...given });
    if (answer.wantsNumber && number === null) return setNumber("");
    setProblem(answer.problem ?? "");
    if (!answer.data) return;
    take(answer.data);
    location.replace("/");
  };
  if (over)
    return (
      <Gate title="This link leads nowhere">
        <p>{over}.</p>
        <p>
          <a href="/">To Piastra</a>
        </p>
      </Gate>
    );
  if (!found) return <p className="opening">Looking at the link …</p>;
  const title = own ? "A new password" : found.project ? `Work in ${found.project}` : "Work with Piastra";
  return (
    <Gate title={title}>
      <p>
        {own
          ? `For ${found.email}. It signs you out everywhere else.`
          : found.project
            ? `${found.by ?? "Somebody"} invites you as ${A[found.role ?? "reader"]}.`
            : found.kind === "administrator"
              ? "You will look after the people who work with it."
              : `${found.by ?? "Somebody"} invites you; you may begin projects of your own.`}
      </p>
      <form onSubmit={(e) => void accept(e)}>
        {person && !own ? (
          <p className="quiet">
            You are signed in as {person.name}, {person.email}.
          </p>
        ) : (
          <>
            {!own && (
              <>
                <Field
                  label="Name"
                  complete="name"
                  value={name}
                  set={setName}
                  first
                  hint="It stands beside all that you change."
                />
                <Field label="E-mail" type="email" complete="username" value={email} set={setEmail} />
              </>
            )}
            <Field
              label="Password"
              type="password"
              complete="new-password"
              value={password}
              set={setPassword}
              first={own}
              hint={enough(password)}
            />
            {number !== null && <NumberOf value={number} set={setNumber} />}
          </>
        )}
        {problem && (
          <p className="error" role="alert">
            {problem}
          </p>
        )}
        <button type="submit" className="accent">
          {own ? "Keep it" : "Accept"}
        </button>
      </form>
      {!person && !own && (
        <p className="quiet">With an account already: sign in first, then open the link once more.</p>
      )}
    </Gate>
  );
}

async function accepted(secret: string, headers: Record<string, string>) {
  const answer = await fetch("/api/invitations/accept", {
    method: "POST",
    headers: { "Content-Type": "application/json", ...headers },
    body: JSON.stringify({ secret }),
  }).catch(() => null);
  const told = await answer?.json().catch(() => undefined);
  return answer?.ok ? { data: told } : { problem: problemsOf(told)[0]?.sentence };
}
