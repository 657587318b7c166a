import { WORDS, type Word } from "../model/words";
import { useMet } from "./met";

/** A sentence on each of our own words that stand here, until the reader has met them. */
export function FirstMet(props: { words: Word[] }) {
  const { met, meet } = useMet();
  const fresh = props.words.filter((w) => !met.includes(w));
  if (!fresh.length) return null;
  return (
    <p className="first-met" role="note">
      {fresh.map((word) => (
        <span key={word}>
          <b>{word.charAt(0).toUpperCase() + word.slice(1)}</b>: {WORDS[word]}{" "}
        </span>
      ))}
      <button type="button" className="link" onClick={() => meet(fresh)}>
        Understood
      </button>
    </p>
  );
}
