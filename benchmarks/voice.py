"""How many times faster than real time one voice of the demo renders, and what each part of it costs."""

from benchmarks.timing import ROUNDS, best_of, speed
from inner_tone.core.engine.render import render
from inner_tone.demo import foghorn
from tests.support.figures import record


def main() -> None:
    """Print the table."""
    print("One voice of the lesson “Foghorn”, as many times faster than real time")
    steps = (foghorn.BARE, foghorn.SILENCED, foghorn.SWITCHED, foghorn.BREATHED, foghorn.DISTANT)
    for number, patch in enumerate(steps, 1):
        print(f"  step {number}, {len(patch.modules)} modules: {speed(patch):6.0f} ×")
    seconds = render(foghorn.DISTANT, foghorn.BLASTS).seconds
    whole = seconds / best_of(ROUNDS, lambda: render(foghorn.DISTANT, foghorn.BLASTS))
    print(f"  the whole render of step 5 with measures and limiter: {whole:.0f} ×")
    record("Speed", "one voice of the demo (step 5), a whole render", "100 × real time", f"{whole:.0f} ×")
