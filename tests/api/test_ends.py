"""However the application ends, nothing of it goes on; and what one process suffers is not the others' end."""

import os
import signal
import unittest
from functools import partial

from inner_tone.demo.foghorn import BLASTS, DISTANT
from tests.support.application import Application
from tests.support.patience import wait_for
from tests.support.processes import family, runs

WISH = {"patch": DISTANT.to_json(), "phrase": BLASTS.model_dump(mode="json")}


def ended(processes: list[int]) -> bool:
    """Tell whether none of some processes runs any longer."""
    return not any(map(runs, processes))


class EndTest(unittest.TestCase):
    def setUp(self) -> None:
        self.application = Application()
        self.addCleanup(self.application.stop)

    def processes(self) -> list[int]:
        """Return the numbers of all processes of the application, which have done something."""
        with self.application.client() as client:
            self.assertEqual(client.post("/api/renders", json=WISH).status_code, 200)
        process = self.application.process
        assert process is not None
        return family(process)

    def test_nothing_goes_on_when_it_has_ended(self) -> None:
        for end in (self.application.stop, self.application.kill):
            before = self.processes()
            self.assertGreaterEqual(len(before), 4, "the server, the template and two that work")
            end()
            wait_for(partial(ended, before), 20, "the end of all of them")
            self.application.start()

    def test_whoever_is_killed_beside_it_is_replaced(self) -> None:
        server, *others = self.processes()
        for other in others:
            os.kill(other, signal.SIGKILL)
        wait_for(partial(ended, others), 20, "their end")
        wait_for(lambda: len(family(server)) >= 4, 60, "another template and others that work")
        after = self.processes()
        self.assertFalse(set(after[1:]) & set(others))


if __name__ == "__main__":
    unittest.main()
