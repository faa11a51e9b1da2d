"""The application in a process of its own, that can be killed and started again."""

import signal
import subprocess
import sys
import threading
from pathlib import Path

from inner_tone.demo.seed import seed
from inner_tone.store.database import connect, migrate, sessions
from tests.support.database import fresh_url
from tests.support.patience import wait_for

ROOT = Path(__file__).resolve().parents[2]


class Application:
    """A server with a database of its own that holds the demo lessons."""

    def __init__(self) -> None:
        self.database = fresh_url()
        engine = connect(self.database)
        migrate(engine)
        seed(sessions(engine))
        engine.dispose()
        self.port = 0
        self.process: subprocess.Popen[str] | None = None
        self.start()

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        """Start, on the same port as before if there was one."""
        command = [sys.executable, "-m", "inner_tone.cli", "serve", "--database", self.database]
        self.process = subprocess.Popen(
            [*command, "--port", str(self.port)], cwd=ROOT, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True
        )
        lines: list[str] = []
        output = self.process.stdout
        assert output is not None
        threading.Thread(target=lambda: lines.extend(iter(output.readline, "")), daemon=True).start()
        said = wait_for(lambda: [line for line in lines if "answers at" in line], 90, "the application")
        self.port = int(said[0].rstrip().rstrip("/").rsplit(":", 1)[1])

    def kill(self) -> None:
        """End at once, with nothing tidied up."""
        self.end(signal.SIGKILL)

    def stop(self) -> None:
        self.end(signal.SIGTERM)

    def end(self, how: signal.Signals) -> None:
        if self.process is not None:
            self.process.send_signal(how)
            self.process.wait(20)
            for pipe in (self.process.stdout, self.process.stderr):
                if pipe is not None:
                    pipe.close()
            self.process = None
