"""What the thermal pictures' board paints: true temperatures, regions, and differences."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zeotherm.core.machine.documents import Job
from zeotherm.core.machine.measured import Picture
from zeotherm.core.runs.thermal_picture import Spread, apart, corrected, regions_of
from zeotherm.shop.picture_files import as_picture
from zeotherm.wording import pictures as words
from zeotherm.wording.language import _

Array = npt.NDArray[np.float64]


@dataclass(frozen=True)
class PictureView:
    """One picture."""

    key: str
    label: str
    field: Array  # °C, nan where nothing is known
    regions: dict[str, tuple[float, float, float, float]]  # shares of width and height
    lines: tuple[str, ...]
    spoken: str


@dataclass(frozen=True)
class PicturesView:
    """All pictures, and what changed from the first to the last."""

    pictures: tuple[PictureView, ...]
    change: Array | None  # K
    change_lines: tuple[str, ...]


def pictures_view(job: Job) -> PicturesView:
    """Everything that the board shows."""
    made, spreads = [], []
    for key, picture in job.measured.pictures.items():
        view, found = _picture(key, picture)
        made.append(view)
        spreads.append(found)
    if len(made) < 2:
        return PicturesView(tuple(made), None, ())
    shared = [name for name in spreads[0] if name in spreads[-1]]
    lines = [line for name in shared for line in words.spread_changed(name, spreads[0][name], spreads[-1][name])]
    return PicturesView(tuple(made), apart(made[0].field, made[-1].field), tuple(lines))


def _picture(key: str, picture: Picture) -> tuple[PictureView, dict[str, Spread]]:
    apparent = as_picture(picture)
    field = corrected(apparent, picture.emissivity, picture.reflected_c)
    shares = {name: (box[0], box[1], box[2], box[3]) for name, box in picture.regions.items()}
    boxes = {name: words.boxed(share, field.shape) for name, share in shares.items()}
    found = regions_of(boxes, field, picture.camera_doubt)
    lines = [words.region(name, one) for name, one in found.items()]
    lines += [text for text in (words.left_out(apparent), words.caution(picture.emissivity)) if text]
    about = _("emissivity {emissivity}, mirrors {reflected} °C").format(
        emissivity=f"{picture.emissivity:.2f}", reflected=f"{picture.reflected_c:.0f}"
    )
    view = PictureView(key, picture.label, field, shares, (about, *lines), ". ".join([picture.label, about, *lines]))
    return view, found
