import { describe, expect, it } from "vitest";
import { type Seen, STOPS, useTour } from "../src/session/tour";

const seen = (more: Partial<Seen>): Seen => ({
  floor: 2,
  revision: 1,
  fresh: 1,
  failing: false,
  undone: false,
  ...more,
});

describe("the first steps", () => {
  it("go on when what they ask for was done, and not before", () => {
    const tour = useTour.getState();
    tour.begin(seen({}));
    const see = (more: Partial<Seen>) => {
      useTour.getState().see(seen(more));
      return useTour.getState().at;
    };
    expect(see({})).toBe(0);
    expect(see({ failing: true })).toBe(1);
    // Reading asks for nothing that could be seen.
    expect(see({ failing: true })).toBe(1);
    useTour.getState().next(seen({ failing: true }));
    expect(see({ failing: true })).toBe(2);
    expect(see({ revision: 2 })).toBe(3);
    expect(see({ revision: 2, fresh: 1 })).toBe(3);
    expect(see({ revision: 2, fresh: 2 })).toBe(4);
    expect(see({ revision: 3, fresh: 3, undone: true })).toBe(5);
    useTour.getState().next(seen({}));
    expect(useTour.getState().at).toBeNull();
  });
  it("do not take another floor's revision for a change of this one", () => {
    useTour.getState().begin(seen({}));
    useTour.setState({ at: 2 });
    useTour.getState().see(seen({ floor: 3, revision: 9 }));
    expect(useTour.getState().at).toBe(2);
    useTour.getState().see(seen({ floor: 3, revision: 10 }));
    expect(useTour.getState().at).toBe(3);
    useTour.getState().end();
    expect(STOPS.every((s) => s.text.length < 200)).toBe(true);
  });
});
