import { type FormEvent, useState } from "react";
import { saying } from "../api/client";
import { type Factor, NumberField } from "./NumberField";

/** Asks for the password, and the number of the second factor where there is one, before something is done. */
export function KnownForm(props: {
  factor: Factor | null;
  act: string;
  send: (known: { password: string; number: string }) => Promise<{ error?: unknown; response: Response }>;
  done: () => void;
}) {
  const { factor, act, send, done } = props;
  const [password, setPassword] = useState("");
  const [number, setNumber] = useState("");
  const [problem, setProblem] = useState("");
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    const { error, response } = await send({ password, number });
    setProblem(response.ok ? "" : saying(error));
    setPassword("");
    setNumber("");
    if (response.ok) done();
  };
  return (
    <>
      <form className="line-form" onSubmit={(e) => void submit(e)}>
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
        <button type="submit" className="small" disabled={!password || (factor?.on && !number)}>
          {act}
        </button>
      </form>
      {problem && (
        <p className="error" role="alert">
          {problem}
        </p>
      )}
    </>
  );
}
