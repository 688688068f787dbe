"""What the thermal pictures' board paints: true temperatures, regions, and differences."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zeotherm.core.machine.documents import Job
from zeotherm.core.machine.measured import Picture
from zeotherm.core.runs.thermal_picture import Spread, apart, as_picture, corrected, region, regions_of, spread
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
    change_head: str = ""


@dataclass(frozen=True)
class Computed:
    """The print face as the model has it, late in the print; the back of the bed at the top."""

    number: str  # of its job
    field: Array  # °C, nan where there is no plate


def pictures_view(job: Job, computed: Computed | None = None) -> PicturesView:
    """Everything that the board shows; computed: what a single picture of the bed is held against."""
    made, spreads = [], []
    for key, picture in job.measured.pictures.items():
        view, found = _picture(key, picture)
        made.append(view)
        spreads.append(found)
    beds = [n for n, view in enumerate(made) if "bed" in view.regions]
    if len(beds) == 1 and computed is not None and computed.number == job.number:
        bed = beds[0]
        others = tuple(view for n, view in enumerate(made) if n != bed)
        return _beside_the_model(made[bed], spreads[bed], computed, others)
    alike = [n for n, found in enumerate(spreads) if set(found) & set(spreads[0])]
    if len(alike) < 2:  # pictures of unlike things are not taken from each other
        return PicturesView(tuple(made), None, ())
    last = alike[-1]
    shared = [name for name in spreads[0] if name in spreads[last]]
    lines = [line for name in shared for line in words.spread_changed(name, spreads[0][name], spreads[last][name])]
    return PicturesView(tuple(made), apart(made[0].field, made[last].field), tuple(lines))


def _beside_the_model(
    seen: PictureView, spreads: dict[str, Spread], computed: Computed, others: tuple[PictureView, ...] = ()
) -> PicturesView:
    """A picture of the bed, the computed face, and what lies between them on the fixed scale; the others between."""
    rows, columns = seen.field.shape
    left, top, right, bottom = seen.regions["bed"]
    part = region(seen.field, (round(left * columns), round(top * rows), round(right * columns), round(bottom * rows)))
    model = spread(computed.field, 0.0, 0.05)
    by = apart(computed.field, part)
    lines = [words.region("bed", model)] if model is not None else []
    about = _("computed, late in the print")
    view = PictureView("model", _("The model's face"), computed.field, {}, (about, *lines), about)
    change = [words.against_model(by)]
    if model is not None:
        change += [
            text for name in ("bed",) if name in spreads for text in words.spread_changed(name, model, spreads[name])
        ]
    return PicturesView((seen, *others, view), by, tuple(change), _("Camera less model"))


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
