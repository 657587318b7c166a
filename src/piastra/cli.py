"""The command line: solve, study, schema, verify, demo, bench, which need no server and no database; backup, restore, prune and invite of one."""

from __future__ import annotations

import json
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, NoReturn, TypeVar

import typer

from piastra.core.model import Floor, RefusedError
from piastra.exchange import floor_file

app = typer.Typer(add_completion=False, help="Piastra: design of concrete floors.", pretty_exceptions_enable=False)

BAD_INPUT = 2
T = TypeVar("T")


def _read(path: Path) -> Floor:
    try:
        return floor_file.read(path)
    except RefusedError as error:
        _refuse(error)


def _refuse(error: RefusedError) -> NoReturn:
    for refusal in error.refusals:
        typer.echo(str(refusal).replace("\n", " "), err=True)
    raise typer.Exit(BAD_INPUT)


@app.command()
def solve(
    floor: Annotated[Path, typer.Argument(help="A floor file.")],
    out: Annotated[Path, typer.Option(help="Where the results file goes.")],
    timings: Annotated[bool, typer.Option("--timings", help="Print the seconds of each stage.")] = False,
) -> None:
    """Run the whole computation of one floor."""
    from piastra.core.pipeline import solve_floor
    from piastra.exchange.results_file import results

    model = _read(floor)
    try:
        outcome = solve_floor(model)
    except RefusedError as error:
        _refuse(error)
    document = results(outcome)
    try:
        out.write_text(json.dumps(document, allow_nan=False, ensure_ascii=False), encoding="utf-8")
    except OSError as error:
        typer.echo(f"{out}: cannot be written: {(error.strerror or 'unknown reason').lower()}", err=True)
        raise typer.Exit(BAD_INPUT) from None
    for row in document["verdict"]:
        use = "    " if row["utilisation"] is None else f"{row['utilisation']:.2f}"
        typer.echo(f"{row['check']:<12}{use:>6}  {row['status']:<10}{row['where'] or row['reason']}")
    for message in document["messages"]:
        typer.echo(f"{message['severity']}: {message['where']} {message['sentence']}")
    if timings:
        for stage, value in document["seconds"].items():
            typer.echo(f"{stage:<12}{value:8.3f} s")


@app.command()
def study(
    file: Annotated[Path, typer.Argument(help="A study file: a floor and what varies.", exists=False)],
    out: Annotated[Path, typer.Option(help="Where the table goes, as CSV or XLSX by its name.")],
    workers: Annotated[int, typer.Option(min=1, max=64, help="Processes that compute side by side.")] = 1,
) -> None:
    """Compute every variant of a study and write one table of them."""
    from piastra.exchange import study as studies
    from piastra.exchange.tables import to_csv, to_xlsx

    try:
        given, floors = studies.read(file)
    except RefusedError as error:
        _refuse(error)
    found = []
    for k, variant in enumerate(studies.run(given, floors, workers)):
        found.append(variant)
        worst = max((u for u in variant.utilisation.values() if u is not None), default=None)
        typer.echo(
            f"{k + 1:>4} of {given.count * len(floors)}  {variant.verdict:<10}{'' if worst is None else f'{worst:.2f}'}  {variant.told[:100]}"
        )
    table = studies.table(given, found)
    try:
        out.write_bytes(to_xlsx(table) if out.suffix.lower() == ".xlsx" else to_csv(table))
    except OSError as error:
        typer.echo(f"{out}: cannot be written: {(error.strerror or 'unknown reason').lower()}", err=True)
        raise typer.Exit(BAD_INPUT) from None


@app.command()
def schema(
    markdown: Annotated[Path | None, typer.Option(help="Write the page that explains the keys to this file instead.")] = None,
) -> None:
    """Print the JSON Schema of the floor file."""
    if markdown is None:
        typer.echo(json.dumps(Floor.model_json_schema(), indent=1))
        return
    from piastra.exchange.schema_page import schema_page

    markdown.write_text(schema_page(), encoding="utf-8")


@app.command()
def formulas(
    markdown: Annotated[Path, typer.Option(help="The file to write.")],
    provisions: Annotated[Path | None, typer.Option(help="The file for the table of provisions for bars.")] = None,
) -> None:
    """Write the page of formulas, with their clauses and the lines that compute them."""
    from piastra.exchange.formulas_page import page
    from piastra.exchange.provisions_page import provisions_page

    markdown.write_text(page(), encoding="utf-8")
    if provisions is not None:
        provisions.write_text(provisions_page(), encoding="utf-8")


@app.command()
def verify(
    markdown: Annotated[Path | None, typer.Option(help="Write the table and the refinement study to this file.")] = None,
) -> None:
    """Run the verification cases against their closed forms."""
    from piastra.core.verification import SPECIMENS, cases, predicted, refinement, report

    rows = []
    for case in cases():
        row = case.run()
        rows.append(row)
        typer.echo(row.line())
    if markdown is not None:
        markdown.write_text(report(rows, refinement(), [predicted(s) for s in SPECIMENS]), encoding="utf-8")
    failed = [r for r in rows if not r.holds]
    typer.echo(f"{len(rows) - len(failed)} of {len(rows)} within their limits")
    if failed:
        raise typer.Exit(1)


@app.command()
def demo(out_dir: Annotated[Path, typer.Argument(help="Where the demo's floor files go.")]) -> None:
    """Write the demo floors as floor files."""
    from piastra.demo.lodge import second_floor
    from piastra.demo.saltmarsh import floors

    try:
        out_dir.mkdir(parents=True, exist_ok=True)
        for floor in [*floors(), second_floor()]:
            path = out_dir / (floor.name.lower().replace(",", "").replace(":", "").replace(" ", "-") + ".json")
            floor_file.write(floor, path)
            typer.echo(str(path))
    except OSError as error:
        typer.echo(f"{out_dir}: cannot be written: {(error.strerror or 'unknown reason').lower()}", err=True)
        raise typer.Exit(BAD_INPUT) from None


@app.command(name="backup")
def back_up(
    file: Annotated[
        Path, typer.Argument(help="Where the backup goes; a file that is there is replaced when the new one is whole.")
    ],
    database: Annotated[str, typer.Option(help="Address of the database; that of PIASTRA_DATABASE if none is given.")] = "",
) -> None:
    """Write everything that the server's database holds into one file, while people work."""
    from piastra.store.backup import BackupError, backup
    from piastra.store.database import url

    try:
        size = backup(database or url(), file)
    except BackupError as error:
        typer.echo(f"No backup was made: {error}.", err=True)
        raise typer.Exit(BAD_INPUT) from None
    typer.echo(f"{file}: {size / 1e6:.1f} MB")


@app.command(name="restore")
def bring_back(
    file: Annotated[Path, typer.Argument(help="A file that backup wrote.")],
    database: Annotated[str, typer.Option(help="Address of the database; that of PIASTRA_DATABASE if none is given.")] = "",
    replace: Annotated[bool, typer.Option(help="Replace a database that holds projects.")] = False,
) -> None:
    """Bring a backup into a database; one that holds projects is left alone unless it is to be replaced."""
    from sqlalchemy.exc import SQLAlchemyError

    from piastra.store.backup import BackupError, restore
    from piastra.store.database import url

    try:
        found = restore(file, database or url(), replace)
    except BackupError as error:
        typer.echo(f"Nothing was restored: {error}.", err=True)
        raise typer.Exit(BAD_INPUT) from None
    except SQLAlchemyError:
        typer.echo("Nothing was restored: the database does not answer; start it, or name another address.", err=True)
        raise typer.Exit(BAD_INPUT) from None
    typer.echo(f"Restored: {found}.")


@app.command()
def invite(
    administrator: Annotated[bool, typer.Option(help="Who comes by the link also looks after people.")] = False,
    address: Annotated[str, typer.Option(help="Where people reach Piastra.")] = "http://127.0.0.1:8347",
    database: Annotated[str, typer.Option(help="Address of the database; that of PIASTRA_DATABASE if none is given.")] = "",
) -> None:
    """Print a link that lets one person in; the first administrator comes this way."""
    from piastra.store import people
    from piastra.store.database import connect, migrate, sessions

    def made() -> str:
        engine = connect(database or None)
        migrate(engine)
        with sessions(engine).begin() as session:
            return people.invite(session, "administrator" if administrator else "practice", None)[1]

    secret = _with_database("No link was made", made)
    typer.echo(f"{address.rstrip('/')}/join#{secret}")
    typer.echo("It lets one person in, within a week, and is shown this once.", err=True)


@app.command(name="prune")
def let_go(
    keep: Annotated[int, typer.Option(min=0, help="So many of its newest results a floor keeps.")] = 1,
    away: Annotated[bool, typer.Option(help="Also all results of what is put away.")] = False,
    look: Annotated[bool, typer.Option("--look", help="Tell what would go, and leave it.")] = False,
    database: Annotated[str, typer.Option(help="Address of the database; that of PIASTRA_DATABASE if none is given.")] = "",
) -> None:
    """Let results go that can be computed again, and sign-ins, links and tokens that are over. Revisions and verdicts stay."""
    from piastra.store.database import connect, migrate, sessions
    from piastra.store.prune import Pruned, give_back, prune

    def done() -> Pruned:
        engine = connect(database or None)
        migrate(engine)
        with sessions(engine)() as session:
            found = prune(session, keep, away)
            if look:
                session.rollback()
            else:
                session.commit()
                give_back(session)
            return found

    found = _with_database("Nothing was let go", done)
    typer.echo(f"{'Would go' if look else 'Gone'}: {found}.")


def _with_database(told: str, work: Callable[[], T]) -> T:
    from sqlalchemy.exc import SQLAlchemyError

    try:
        return work()
    except SQLAlchemyError:
        typer.echo(f"{told}: the database does not answer; start it, or name another address.", err=True)
        raise typer.Exit(BAD_INPUT) from None


@app.command()
def bench(
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
    size_m: Annotated[float, typer.Option(help="Greatest size of elements.")] = 0.5,
    area: Annotated[float | None, typer.Option(min=100.0, help="Measure a flat slab of this area (m2) instead.")] = None,
) -> None:
    """Measure the demo's main floor: seconds by stage, memory, and the ratio to the bare equation solver."""
    from piastra.demo.bench import measure, measure_area

    found = measure(size_m) if area is None else measure_area(area, size_m)
    if as_json:
        typer.echo(json.dumps(found))
        return
    for key, value in found.items():
        typer.echo(f"{key:<22}{json.dumps(value)}")


def main() -> None:
    """Entry point of the console script."""
    try:
        app()
    except KeyboardInterrupt:
        sys.exit(130)


if __name__ == "__main__":
    main()
