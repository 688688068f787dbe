"""What goes to another process leaves the catalogue behind and comes back with this side's own."""

import io
import pickle

import pytest

from zeotherm.answers.parcels import packed, shelf, unpacked
from zeotherm.core.catalogue import shipped


def test_the_catalogue_is_left_out_and_put_back():
    catalogue = shipped()
    whole = {"catalogue": catalogue, "twice": [catalogue, 2.5], "text": "hotend"}
    data = packed(whole, catalogue)
    assert len(data) < 500 < len(pickle.dumps(catalogue)) // 100
    back = unpacked(data, catalogue)
    assert back["catalogue"] is catalogue
    assert back["twice"][0] is catalogue
    assert (back["twice"][1], back["text"]) == (2.5, "hotend")


def test_another_catalogue_travels_as_it_is():
    catalogue = shipped()
    other = catalogue.model_copy()
    assert unpacked(packed([other], catalogue), catalogue)[0] is not catalogue


def test_a_shelf_that_came_before_is_the_same_thing():
    data = pickle.dumps(shipped())
    assert shelf(data) is shelf(bytes(data))
    assert shelf(data) == shipped()


def test_a_name_that_nobody_gave_is_refused():
    class Foreign(pickle.Pickler):
        def persistent_id(self, thing):
            return "something else" if thing == "it" else None

    file = io.BytesIO()
    Foreign(file).dump("it")
    with pytest.raises(pickle.UnpicklingError, match="persistent id"):
        unpacked(file.getvalue(), shipped())
