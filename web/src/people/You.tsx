import { useState } from "react";
import { api } from "../api/client";
import { leaveDemo, useEntry } from "../api/entry";
import { useDialogs } from "../session/dialogs";
import { Browsers, Happened } from "./Browsers";
import { OwnData } from "./OwnData";
import { Password, SecondFactor, useFactor } from "./SecondFactor";
import { Tokens } from "./Tokens";

const PARTS = ["Password", "Second factor", "Browsers", "Tokens", "What happened", "Your data"] as const;

/** Who is signed in: out again, what one comes in with, where one is signed in, and what is kept. */
export function You() {
  const { me } = useEntry();
  const openDialog = useDialogs((d) => d.open);
  const [part, setPart] = useState<(typeof PARTS)[number]>("Password");
  const [factor, look] = useFactor();
  const person = me?.person;
  if (!person) return null;
  const out = async (everywhere: boolean) => {
    leaveDemo(true);
    await api.POST("/api/sign-out", { body: { everywhere } });
    // What the page shows is no longer anybody's.
    location.replace("/");
  };
  return (
    <div className="you">
      <p>
        <b>{person.name}</b> <span className="quiet">{person.email}</span>
        {person.administrator && <span className="quiet"> · looks after people</span>}
      </p>
      {me?.demo ? (
        <p className="hint">
          This is the demo: whoever opens it on this machine is signed in as its designer. No other machine reaches it.
        </p>
      ) : (
        person.administrator &&
        factor?.on === false && (
          <p className="warning">Looking after people takes a second factor. Set one up, then it is open to you.</p>
        )
      )}
      <div className="button-row">
        <button type="button" className="small" onClick={() => void out(false)}>
          Sign out
        </button>
        <button type="button" className="small" onClick={() => void out(true)}>
          Sign out everywhere
        </button>
        <button type="button" className="small" onClick={() => openDialog("people")}>
          People of this project
        </button>
        {person.administrator && (
          <button type="button" className="small" onClick={() => openDialog("practice")}>
            People of the practice
          </button>
        )}
      </div>
      <div className="tabs" role="tablist" aria-label="Your account">
        {PARTS.map((name) => (
          <button type="button" role="tab" key={name} aria-selected={name === part} onClick={() => setPart(name)}>
            {name}
          </button>
        ))}
      </div>
      {part === "Password" && <Password factor={factor} />}
      {part === "Second factor" && <SecondFactor factor={factor} look={look} />}
      {part === "Browsers" && <Browsers />}
      {part === "Tokens" && <Tokens />}
      {part === "What happened" && <Happened />}
      {part === "Your data" && <OwnData factor={factor} />}
    </div>
  );
}
