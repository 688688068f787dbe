"""Commands about the parts shelf: what is on it, handed on and taken in."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import click

from zeotherm.cli.group import ToldError, main, plain_console

if TYPE_CHECKING:
    from zeotherm.core.catalogue import Catalogue
    from zeotherm.shop.files.shelf_files import Shelf

PARTS = click.option(
    "--parts", "file", type=click.Path(path_type=Path), help="The shop's own parts; parts.json beside your workshop."
)


@main.command("shelf")
@click.argument("kind", required=False)
@click.option("--csv", "as_table", is_flag=True, help="As a table to hand on.")
@click.option("--json", "as_json", is_flag=True, help="The shop's own parts, as a file to hand on.")
@click.option("--own", is_flag=True, help="Only the shop's own parts.")
@PARTS
def shelf(kind: str | None, as_table: bool, as_json: bool, own: bool, file: Path | None) -> None:
    """List the shelves, or the parts of one: zeotherm shelf fans"""
    from zeotherm.core.catalogue.own import parts_on
    from zeotherm.shop.files import shelf_files

    kept, catalogue = _kept(file)
    if as_json:
        click.echo(shelf_files.dumps(kept), nl=False)
    elif kind is None:
        for name, about in catalogue.own_figures.items():
            own_ones = len(kept.parts.get(name, {}))
            click.echo(f"{name:18}{about.plural:20}{len(parts_on(catalogue, name)):4}{own_ones:4} own")
    elif as_table:
        click.echo(shelf_files.as_csv(kind, catalogue, kept, own_only=own), nl=False)
    else:
        _list(kind, catalogue, kept, own)


@main.command("shelf-import")
@click.argument("brought", metavar="FILE", type=click.Path(path_type=Path))
@PARTS
def shelf_import(brought: Path, file: Path | None) -> None:
    """Take a shelf in, JSON or CSV, to the shop's own parts; what is there already stays as it was."""
    from zeotherm.shop.files import shelf_files

    kept, _catalogue = _kept(file)
    found = shelf_files.taken_in(brought, kept)
    shelf_files.write_shelf(_file(file), found.shelf)
    for text in found.left_out:
        click.echo(f"{text}.")
    click.echo(f"{found.new} new parts in {_file(file)}.")


def _file(file: Path | None) -> Path:
    from zeotherm.shop.files.shelf_files import beside
    from zeotherm.shop.places import workshop_file

    return file or beside(workshop_file())


def _kept(file: Path | None) -> tuple[Shelf, Catalogue]:
    from zeotherm.core.catalogue import shipped
    from zeotherm.shop.files import shelf_files

    path = _file(file)
    if file is not None and not path.is_file() and path.exists():
        raise ToldError(f"{path} is no file.")
    kept = shelf_files.read_shelf(path)
    return kept, shipped().with_own(shelf_files.parts_of(kept))


def _list(kind: str, catalogue: Catalogue, kept: Shelf, own: bool) -> None:
    from rich.table import Table

    from zeotherm.core.catalogue.own import parts_on, stated
    from zeotherm.wording import shelf as words

    about = catalogue.own_figures.get(kind)
    if about is None:
        raise ToldError(f"There is no shelf '{kind}'; there are {', '.join(catalogue.own_figures)}.")
    figures = [one for one in about.figures if one.head]
    table = Table(box=None)
    for head in ("key", "name", *(f"{one.head}, {one.unit}" if one.unit else one.head for one in figures)):
        table.add_column(head, no_wrap=head == "key")
    for key, entry in parts_on(catalogue, kind).items():
        if not own or key in kept.parts.get(kind, {}):
            table.add_row(key, entry.label, *(words.with_half(stated(entry, one), one) for one in figures))
    plain_console().print(table)
