"""Materials, filaments, parts, limits and cautions: data files and their loader."""

from zeotherm.core.catalogue.shelves import Catalogue, shipped

__all__ = ["Catalogue", "shipped"]
