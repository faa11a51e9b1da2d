"""What is said of a render."""

from pydantic import BaseModel

from inner_tone.core.checkup import Code, Finding
from inner_tone.core.lens.chart import Chart, Seen
from inner_tone.core.patch.moves import Edit
from inner_tone.core.phrase import Phrase


class MeasureOut(BaseModel):
    """What a port did: extremes, RMS, mean, and its outline in 128 parts.

    Of what a card shows closely, `cycle` has two cycles of its wave, or some
    milliseconds where `cycle_hz` is 0, and `bands` its levels in dB from 40 Hz to 16 kHz.
    """

    least: float
    greatest: float
    rms: float
    mean: float
    lows: list[float]
    highs: list[float]
    cycle: list[float]
    cycle_hz: float
    bands: list[float]


class FindingOut(BaseModel):
    """What the checkup found at one place; `edits`, or another phrase, mend it where one move does."""

    code: Code
    module: str
    port: str
    message: str
    measured: str
    why: str
    remedy: str
    action: str
    edits: list[Edit]
    phrase: Phrase | None


class RenderOut(BaseModel):
    """A render; its sound is at /api/renders/{key}/sound. Of a silent patch, `reach` are the modules that sound.

    `silences` says why modules give no sound.
    """

    key: str
    seconds: float
    limited_db: float
    measures: dict[str, MeasureOut]
    lenses: list[Chart]
    findings: list[FindingOut]
    reach: list[str]
    silences: dict[str, str]
    moment: Seen


class DrawnOut(BaseModel):
    """What a recipe makes: one chart, or those of a strip, and the sentence that says what they show."""

    charts: list[Chart]
    sentence: str


def finding_out(one: Finding) -> FindingOut:
    """Return a finding for the wire."""
    return FindingOut(
        code=one.code,
        module=one.module,
        port=one.port,
        message=str(one.message),
        measured=str(one.measured),
        why=str(one.why),
        remedy=str(one.remedy.words),
        action=str(one.remedy.action or one.remedy.words),
        edits=list(one.remedy.edits),
        phrase=one.remedy.phrase,
    )
