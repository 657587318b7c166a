/** What the page's address asks for by a name. */
export const asked = (name: string): string | null => new URLSearchParams(globalThis.location?.search).get(name);

/** Put something into the page's address, or take it out of it. */
export function addressed(name: string, value: string | null): void {
  const query = new URLSearchParams(globalThis.location?.search);
  if (value === null) query.delete(name);
  else query.set(name, value);
  history.replaceState(null, "", `?${query}`);
}
