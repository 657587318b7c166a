import type { Tool } from "../kinds/kind";
import { TOOLS } from "../plan/tools/tools";

const GROUPS: [Tool["group"], string][] = [
  ["draw", "Draw, where the floor is set out and built"],
  ["change", "Change what is selected"],
  ["load", "Loads, at step Load"],
  ["arrange", "Panels, at step Arrange"],
  ["tendons", "Tendons, at their step"],
  ["read", "Read results"],
  ["measure", "Measure"],
];

const OTHER: [string, [string, string][]][] = [
  [
    "Anywhere",
    [
      ["Ctrl K", "find an object, a step or a command"],
      ["Ctrl B", "the building, and back to the floor"],
      ["Ctrl Z", "undo"],
      ["Ctrl Shift Z", "redo"],
      ["?", "these keys"],
    ],
  ],
  [
    "The plan",
    [
      ["F", "fit the floor into the view"],
      ["+ −", "nearer, farther"],
      ["Shift arrows", "shift the view"],
      ["\\", "all room for the plan, and back"],
      ["Ctrl A", "select everything"],
      ["Ctrl C, Ctrl V", "copy, paste objects"],
      ["Delete", "delete what is selected"],
      ["Esc", "let go"],
    ],
  ],
  [
    "While drawing",
    [
      ["digits, Tab", "type the next point"],
      ["Enter", "end the outline or line"],
      ["A", "an arc through the next point"],
      ["Backspace", "the last point again"],
      ["Esc", "leave the tool"],
    ],
  ],
  [
    "The building",
    [
      ["arrows", "go from floor to floor"],
      ["Enter", "open the floor"],
      ["Space", "pick it, to run or to compare"],
      ["F2", "rename it"],
      ["Alt ← →", "earlier, later in the order"],
      ["Delete", "put it away"],
    ],
  ],
  [
    "Tables",
    [
      ["arrows, Tab", "go from cell to cell"],
      ["Enter", "begin or end typing"],
      ["Shift arrows", "select a block"],
      ["Ctrl C, Ctrl V", "copy, paste blocks, also from a spreadsheet"],
    ],
  ],
];

function Letters(props: { title: string; keys: [string, string][] }) {
  return (
    <section>
      <h3>{props.title}</h3>
      <dl>
        {props.keys.map(([key, does]) => (
          <div key={key + does}>
            <dt>
              <kbd>{key}</kbd>
            </dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

/** Every key: those of the tools as the tools have them. */
export function Keys() {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: it is scrolled by keys
    <div className="keys" tabIndex={0}>
      {OTHER.map(([title, keys]) => (
        <Letters key={title} title={title} keys={keys} />
      ))}
      {GROUPS.map(([group, title]) => {
        const keys = TOOLS.filter((t) => t.group === group && t.letter).map((t): [string, string] => [
          t.letter,
          t.name,
        ]);
        return keys.length > 0 && <Letters key={group} title={title} keys={keys} />;
      })}
    </div>
  );
}
