import { type FormEvent, useCallback, useEffect, useState } from "react";
import { api, saying } from "../api/client";
import type { components } from "../api/generated";
import { KnownForm } from "./KnownForm";
import { CopyButton } from "./Links";
import { type Factor, NumberField } from "./NumberField";

type Begun = components["schemas"]["BegunFactor"];

/** Whether one has a second factor (null: not known yet), and the way to look again. */
export function useFactor(): [Factor | null, () => Promise<void>] {
  const [factor, setFactor] = useState<Factor | null>(null);
  const look = useCallback(async () => setFactor((await api.GET("/api/me/second-factor")).data ?? null), []);
  useEffect(() => void look(), [look]);
  return [factor, look];
}

export function Password({ factor }: { factor: Factor | null }) {
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  const [number, setNumber] = useState("");
  const [told, setTold] = useState("");
  const change = async (event: FormEvent) => {
    event.preventDefault();
    const { error, response } = await api.PUT("/api/me/password", { body: { old, new: fresh, number } });
    setTold(response.ok ? "The new password holds; other browsers are signed out." : saying(error));
    if (response.ok) {
      setOld("");
      setFresh("");
      setNumber("");
    }
  };
  return (
    <section aria-label="Password">
      <form className="line-form" onSubmit={(e) => void change(e)}>
        <label>
          That of now
          <input type="password" autoComplete="current-password" value={old} onChange={(e) => setOld(e.target.value)} />
        </label>
        <label>
          The new one
          <input type="password" autoComplete="new-password" value={fresh} onChange={(e) => setFresh(e.target.value)} />
        </label>
        <NumberField factor={factor} value={number} set={setNumber} />
        <button type="submit" className="small" disabled={!old || !fresh}>
          Change
        </button>
      </form>
      {told && <p role="status">{told}</p>}
    </section>
  );
}

/** Numbers of an authenticator beside the password: set up, confirmed, taken off. */
export function SecondFactor({ factor, look }: { factor: Factor | null; look: () => Promise<void> }) {
  const [begun, setBegun] = useState<Begun | null>(null);
  const [codes, setCodes] = useState<string[]>([]);
  const [number, setNumber] = useState("");
  const [problem, setProblem] = useState("");
  const begin = async () => {
    const { data, error } = await api.POST("/api/me/second-factor");
    setBegun(data ?? null);
    setCodes([]);
    setProblem(data ? "" : saying(error));
  };
  const confirm = async (event: FormEvent) => {
    event.preventDefault();
    if (!begun) return;
    const { data, error } = await api.PUT("/api/me/second-factor", { body: { sealed: begun.sealed, number } });
    setProblem(data ? "" : saying(error));
    setNumber("");
    if (!data) return;
    setBegun(null);
    setCodes(data.codes);
    await look();
  };
  if (!factor) return null;
  return (
    <section aria-label="Second factor">
      {codes.length > 0 && (
        <div className="copied" role="status">
          <b>
            The second factor holds. These codes let you in when the device is lost; each works once, and they are shown
            this once:
          </b>
          <div className="row-of">
            <p className="codes mono">
              {codes.map((c) => (
                <span key={c}>{c}</span>
              ))}
            </p>
            <CopyButton text={codes.join("\n")} />
          </div>
        </div>
      )}
      {factor.on ? (
        <>
          <p>
            It is set up; {factor.spare} of the spare codes {factor.spare === 1 ? "is" : "are"} left.
          </p>
          <KnownForm
            factor={factor}
            act="Take it off"
            send={(body) => api.POST("/api/me/second-factor/off", { body })}
            done={() => {
              setCodes([]);
              void look();
            }}
          />
        </>
      ) : begun ? (
        <div className="factor">
          <img alt="What an authenticator reads" src={`data:image/svg+xml;base64,${btoa(begun.picture)}`} />
          <div>
            <p>Show this to an authenticator on another device, or type its key there:</p>
            <p className="mono key">{begun.key.replace(/(.{4})/g, "$1 ")}</p>
            <form className="line-form" onSubmit={(e) => void confirm(e)}>
              <label>
                The number that it shows
                <input
                  className="mono"
                  autoComplete="one-time-code"
                  inputMode="numeric"
                  maxLength={10}
                  value={number}
                  // biome-ignore lint/a11y/noAutofocus: the one thing to do here
                  autoFocus
                  onChange={(e) => setNumber(e.target.value)}
                />
              </label>
              <button type="submit" className="small accent" disabled={!number}>
                Confirm
              </button>
            </form>
          </div>
        </div>
      ) : (
        <>
          <p className="quiet">
            Beside the password you are then asked for a number that a device of yours shows anew every 30 seconds.
          </p>
          {factor.possible ? (
            <button type="button" className="small" onClick={() => void begin()}>
              Set one up
            </button>
          ) : (
            <p className="warning">This server has no secret of its own to keep a key with; see how it is run.</p>
          )}
        </>
      )}
      {problem && (
        <p className="error" role="alert">
          {problem}
        </p>
      )}
    </section>
  );
}
