"""Patches at the bench: what edits make of them, where connections and modules could go, and small pictures."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from inner_tone.api.schemas import Incoming
from inner_tone.core.analysis.picture import Picture, picture
from inner_tone.core.patch.edit import Edited, edited, fragment
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.merge import merged
from inner_tone.core.patch.model import Connection, Module, Name, Patch
from inner_tone.core.patch.moves import Edit, Ends
from inner_tone.core.patch.offers import Offer, offers_from, offers_to
from inner_tone.core.patch.placements import placements
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.validate import checked_patch, checked_port

router = APIRouter(prefix="/api/patches", tags=["patches"])


class EditWish(Incoming):
    """A patch and what is to be done with it."""

    patch: Patch
    edits: Annotated[list[Edit], Field(min_length=1, max_length=200)]


class EditedOut(BaseModel):
    """The patch afterwards, and the modules that it was about."""

    patch: Patch
    touched: list[str]


class MergeWish(Incoming):
    """A patch, what it has become, and another into which that is to be brought."""

    base: Patch
    early: Patch
    late: Patch


class FragmentWish(Incoming):
    """Some modules of a patch."""

    patch: Patch
    modules: Annotated[list[Name], Field(min_length=1)]


class OffersWish(Incoming):
    """A patch and the port from which, or to which, a connection is wished; the other one is none."""

    patch: Patch
    port: Port
    into: bool = False


class OfferOut(BaseModel):
    """A connection that could be drawn by its edits; `rank` 0 to 2 make sense, 3 and more are possible.

    One that `weighs` is there already, and is to be scaled.
    """

    line: Connection
    reason: str
    rank: int
    present: bool
    weighs: bool
    edits: tuple[Edit, ...]


class PlacementsWish(Incoming):
    """A patch with what is selected on its map."""

    patch: Patch
    selected: Name | None = None
    line: Ends | None = None


class PlacementOut(BaseModel):
    """One way to put a new module in."""

    words: str
    edits: list[Edit]


class PictureWish(Incoming):
    """A module whose small picture is wished, or its rows."""

    module: Module


class HandleOut(BaseModel):
    """A point of a picture that can be dragged, with the settings that it moves; see `core.analysis.picture`."""

    x: float
    y: float
    moves_x: str | None
    moves_y: str | None
    origin_x: float
    words: str


class PictureOut(BaseModel):
    """A small picture of what a module does; without points, there is none for its type."""

    kind: str
    sentence: str
    x_low: float
    x_high: float
    x_log: bool
    y_low: float
    y_high: float
    xs: list[float]
    ys: list[float]
    handles: list[HandleOut]


def edited_out(done: Edited) -> EditedOut:
    """Return an edited patch for the wire."""
    return EditedOut(patch=done.patch, touched=list(done.touched))


def offer_out(one: Offer) -> OfferOut:
    """Return an offer for the wire."""
    return OfferOut.model_validate(one, from_attributes=True)


def picture_out(one: Picture) -> PictureOut:
    """Return a picture for the wire."""
    return PictureOut(
        kind=one.kind,
        sentence=one.sentence,
        x_low=one.x_low,
        x_high=one.x_high,
        x_log=one.x_log,
        y_low=one.y_low,
        y_high=one.y_high,
        xs=one.xs.round(6).tolist(),
        ys=one.ys.round(5).tolist(),
        handles=[HandleOut.model_validate(handle, from_attributes=True) for handle in one.handles],
    )


@router.post("/edits")
def edit_patch(wish: EditWish) -> EditedOut:
    """Return what edits make of a patch; nothing is kept."""
    return edited_out(edited(checked_patch(wish.patch), wish.edits))


@router.post("/merge")
def merge_patches(wish: MergeWish) -> Patch:
    """Return a patch with what another has become; where both differ from what that was, the patch's own stands."""
    base, early, late = (checked_patch(one) for one in (wish.base, wish.early, wish.late))
    return merged(base, early, late).patch


@router.post("/fragment")
def copy_fragment(wish: FragmentWish) -> Patch:
    """Return some modules with the connections among them, as they can be pasted elsewhere."""
    return fragment(checked_patch(wish.patch), wish.modules)


@router.post("/offers")
def list_offers(wish: OffersWish) -> list[OfferOut]:
    """Return what could be connected to a port, the sensible first."""
    graph = Graph(checked_port(checked_patch(wish.patch), wish.port, outputs=not wish.into))
    found = offers_to(graph, wish.port) if wish.into else offers_from(graph, wish.port)
    return [offer_out(one) for one in found]


@router.post("/placements")
def list_placements(wish: PlacementsWish) -> dict[str, list[PlacementOut]]:
    """Return, for each type of module, where a new one could go, the usual place first."""
    found = placements(Graph(checked_patch(wish.patch)), wish.selected, wish.line)
    return {
        kind: [PlacementOut(words=one.words, edits=list(one.edits)) for one in ways] for kind, ways in found.items()
    }


@router.post("/rows")
def get_rows(wish: PictureWish) -> dict[str, list[float]]:
    """Return the rows of a module as they sound; nothing where they sound as they are written."""
    checked_patch(Patch(modules=(wish.module,)))
    sounding = wish.module.declaration.sounding
    return {name: list(row) for name, row in sounding(wish.module.all_settings).items()} if sounding else {}


@router.post("/picture")
def get_picture(wish: PictureWish) -> PictureOut:
    """Return the small picture of a module."""
    checked_patch(Patch(modules=(wish.module,)))
    return picture_out(picture(wish.module))
