/** The day of a moment of the server's. */
export const day = (moment: string) => moment.slice(0, 10);

/** Day and time of a moment, as clocks here show it. */
export function clock(moment: string): string {
  const at = new Date(/Z|[+]\d\d:/.test(moment) ? moment : `${moment}Z`);
  const two = (n: number) => String(n).padStart(2, "0");
  return `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())} ${two(at.getHours())}:${two(at.getMinutes())}`;
}
