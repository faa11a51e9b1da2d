"""The level lens in words."""

from inner_tone.core.analysis.beating import Beating
from inner_tone.core.analysis.sentences.words import beating_text, time_text
from inner_tone.core.analysis.stages import Stages
from inner_tone.core.units import trimmed

SILENT_DB = -90.0
LEAST_TOLD_S = 0.001


def describe_level(lufs: float | None, peak_db: float, stages: Stages | None, beats: Beating | None) -> str:
    """Return a sentence about loudness and peak, and about the stages that the sound goes through."""
    if peak_db < SILENT_DB or stages is None:
        return "Silence: nothing rises."
    loud = (
        f"{trimmed(lufs)} LUFS, peak {trimmed(peak_db)} dB"
        if lufs is not None
        else f"Rises to {trimmed(10 ** (peak_db / 20))}"
    )
    if beats:  # where it swells and fades all the time, there is no telling its stages
        return f"{loud}{beating_text(beats)}."
    return f"{loud}: {stages_text(stages)}."


def stages_text(stages: Stages) -> str:
    """Return the stages as a part of a sentence."""
    parts = ["there at once" if stages.attack_s < LEAST_TOLD_S else f"attack {time_text(stages.attack_s)}"]
    if stages.decay_s > LEAST_TOLD_S:
        parts.append(
            f"decay {time_text(stages.decay_s)} to {trimmed(stages.sustain_db, 2)} dB below the top".replace("−", "")
        )
    if stages.release_s is None:
        parts.append("and it does not end")
    elif stages.release_s < LEAST_TOLD_S:
        parts.append("gone at once")
    else:
        parts.append(f"release {time_text(stages.release_s)}")
    return ", ".join(parts)
