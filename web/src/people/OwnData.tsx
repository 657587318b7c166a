import { type FormEvent, useState } from "react";
import { api, saying } from "../api/client";
import { leaveDemo } from "../api/entry";
import { type Factor, NumberField } from "./SecondFactor";

/** What is kept about one, to take along; and the account, to be taken away. */
export function OwnData({ factor }: { factor: Factor | null }) {
  const [password, setPassword] = useState("");
  const [number, setNumber] = useState("");
  const [problem, setProblem] = useState("");
  const leave = async (event: FormEvent) => {
    event.preventDefault();
    const { error, response } = await api.POST("/api/me/leave", { body: { password, number } });
    setProblem(response.ok ? "" : saying(error));
    if (!response.ok) return;
    leaveDemo(true);
    location.replace("/");
  };
  return (
    <section aria-label="Your data">
      <p>
        Name, e-mail, roles, browsers, tokens and what happened to the account:{" "}
        <a className="small" href="/api/me/data" download="piastra-my-data.json">
          Take a copy
        </a>
      </p>
      <p className="quiet">
        An account can be taken away. Its name stays beside what it changed: that is the history of floors, not yours
        alone.
      </p>
      <form className="line-form" onSubmit={(e) => void leave(e)}>
        <label>
          Password
          <input
            type="password"
            autoComplete="current-password"
            value={password}
            onChange={(e) => setPassword(e.target.value)}
          />
        </label>
        <NumberField factor={factor} value={number} set={setNumber} />
        <button type="submit" className="small" disabled={!password}>
          Take my account away
        </button>
      </form>
      {problem && (
        <p className="error" role="alert">
          {problem}
        </p>
      )}
    </section>
  );
}
