"""What costs what: measured beside each other in one run, never inside a test."""

from benchmarks import (
    checkup,
    costs,
    desk,
    edit,
    follow,
    fused,
    lens,
    live,
    nodes,
    service,
    stages,
    teaching,
    voice,
    writing,
)

BENCHMARKS = {
    "fused": fused.main,
    "costs": costs.main,
    "voice": voice.main,
    "checkup": checkup.main,
    "edit": edit.main,
    "lens": lens.main,
    "stages": stages.main,
    "writing": writing.main,
    "follow": follow.main,
    "played": follow.recordings,
    "class": follow.class_at_once,
    "live": live.main,
    "crowd": live.crowd,
    "desk": desk.main,
    "service": service.main,
    "nodes": nodes.main,
    "teaching": teaching.main,
}
