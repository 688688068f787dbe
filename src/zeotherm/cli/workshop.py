"""Commands about the workshop file itself."""

from __future__ import annotations

from pathlib import Path

import click

from zeotherm.cli.group import ToldError, main


@main.command("workshop-check")
@click.argument("file", type=click.Path(path_type=Path), required=False)
@click.option("--export", "folder", type=click.Path(path_type=Path), help="Write what is left of damaged entries here.")
def workshop_check(file: Path | None, folder: Path | None) -> None:
    """Look at every row of a workshop file, your own without FILE; exit code 2 where something is damaged."""
    from zeotherm.shop.errors import ShopError
    from zeotherm.shop.files import job_files
    from zeotherm.shop.places import workshop_file
    from zeotherm.shop.workshops.workshop import Workshop

    path = file or workshop_file()
    if not path.is_file():
        raise ToldError(f"{path} is not there.")
    try:
        workshop = Workshop(path)
        try:
            troubles = workshop.look_over()
            for one in troubles:
                click.echo(one.what)
            click.echo(f"{path.name}: {len(workshop.keys())} jobs, {len(troubles)} damaged entries.")
            if folder is not None:
                folder.mkdir(parents=True, exist_ok=True)
                for name, content in workshop.damaged_rows():
                    job_files.write_bytes(folder / name, content)
                    click.echo(f"Written: {folder / name}")
        finally:
            workshop.close()
    except (ShopError, OSError) as wrong:
        raise ToldError(str(wrong)) from None
    if troubles:
        raise SystemExit(2)
