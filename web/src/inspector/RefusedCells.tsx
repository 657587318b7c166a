import type { components } from "../api/generated";

/** What is wrong with a table that was read, cell by cell; nothing of it was taken over. */
export function RefusedCells(props: { cells: components["schemas"]["CellProblem"][]; close: () => void }) {
  const { cells, close } = props;
  if (!cells.length) return null;
  return (
    <div className="refused-cells" role="alert">
      <p>Nothing was taken over; {cells.length === 1 ? "one cell is" : `${cells.length} cells are`} wrong:</p>
      <ul>
        {cells.slice(0, 30).map((w) => (
          <li key={w.cell + w.sentence}>
            <b className="mono">{w.cell}</b> {w.sentence}
          </li>
        ))}
      </ul>
      <button type="button" className="small" onClick={close}>
        Close
      </button>
    </div>
  );
}
