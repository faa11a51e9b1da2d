"""Company: who sounds together with a phrase, and the parts that come with the program."""

from fastapi import APIRouter, Response
from pydantic import BaseModel

from inner_tone.api.schemas import Incoming
from inner_tone.api.work import TheWork
from inner_tone.core.accompaniments import accompaniments
from inner_tone.core.patch.model import Name
from inner_tone.core.phrase import Companion, Phrase, checked_phrase
from inner_tone.work import errands

router = APIRouter(prefix="/api/company", tags=["company"])


class CompanyWish(Incoming):
    """A phrase with its company, and which part is heard alone, if one is."""

    phrase: Phrase
    alone: Name | None = None


class ShippedPartOut(BaseModel):
    """A part that comes with the program, and what it is."""

    part: Companion
    about: str


ABOUT = {
    "hull": "A low throb, twice a beat, around 55 Hz.",
    "reeds": "Two held chords of an old harmonium, from 80 Hz to 1 kHz.",
    "bells": "A peal from the chapel, a little to the right, above 600 Hz.",
    "rain": "A shower on the deck, and single drops, above 1 kHz.",
}


@router.get("/shipped")
def list_shipped() -> list[ShippedPartOut]:
    """Return the parts that come with the program."""
    return [ShippedPartOut(part=one, about=ABOUT[one.id]) for one in accompaniments()]


@router.post("/sound", response_class=Response, responses={200: {"content": {"audio/wav": {}}}})
async def get_sound(work: TheWork, wish: CompanyWish) -> Response:
    """Return what is heard of the company of a phrase as a WAV file, once for all who ask for the same."""
    phrase = checked_phrase(wish.phrase)
    bare = phrase.model_copy(update={"title": "", "notes": (), "gestures": ()})  # they change nothing of the company
    asked = bare.model_dump_json() + (wish.alone or "")
    wav = await work.once(asked.encode(), None, errands.company_sound, bare, wish.alone)
    return Response(wav, media_type="audio/wav")
