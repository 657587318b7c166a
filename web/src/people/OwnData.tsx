import { api } from "../api/client";
import { leaveDemo } from "../api/entry";
import { KnownForm } from "./KnownForm";
import type { Factor } from "./NumberField";

/** What is kept about one, to take along; and the account, to be taken away. */
export function OwnData({ factor }: { factor: Factor | null }) {
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
      <KnownForm
        factor={factor}
        act="Take my account away"
        send={(body) => api.POST("/api/me/leave", { body })}
        done={() => {
          leaveDemo(true);
          location.replace("/");
        }}
      />
    </section>
  );
}
