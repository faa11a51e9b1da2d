"""nginx before some nodes, set up as docs/nginx.conf tells an operator to."""

import re
import shutil
import subprocess
import tempfile
from collections.abc import Sequence
from pathlib import Path

import httpx

from inner_tone.store.server import free_port
from tests.support import plain
from tests.support.application import ROOT
from tests.support.patience import wait_for

PROGRAM = Path(shutil.which("nginx", path="/usr/sbin:/usr/bin") or "/usr/sbin/nginx")
TOLD = ROOT / "docs" / "nginx.conf"
AROUND = """
daemon off;
{user}
worker_processes 1;
pid {folder}/pid;
error_log {folder}/error.log;
events {{ worker_connections 1024; }}
http {{
    access_log off;
    client_body_temp_path {folder}/body;
    proxy_temp_path {folder}/proxy;
    fastcgi_temp_path {folder}/fastcgi;
    uwsgi_temp_path {folder}/uwsgi;
    scgi_temp_path {folder}/scgi;
    {told}
}}
"""


class Proxy:
    """A server in front of some nodes."""

    def __init__(self, addresses: Sequence[str]) -> None:
        self.port = free_port()
        self.folder = tempfile.TemporaryDirectory()
        file = Path(self.folder.name) / "nginx.conf"
        user = "user root;" if Path("/proc/self").owner() == "root" else ""
        file.write_text(AROUND.format(folder=self.folder.name, user=user, told=self.told(addresses)))
        self.process = subprocess.Popen([str(PROGRAM), "-p", self.folder.name, "-c", str(file)])
        wait_for(self.answers, 20, "nginx")

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def told(self, addresses: Sequence[str]) -> str:
        """Return what is told, with the nodes that there are, and without a certificate."""
        servers = [f"    server {one.removeprefix('http://')} max_fails=1 fail_timeout=2s;\n" for one in addresses]
        text = re.sub(r"(    server 127\.0\.0\.1.*\n)+", "".join(servers), TOLD.read_text())
        text = re.sub(r" +ssl_.*\n", "", text)
        return text.replace("listen 443 ssl;", f"listen 127.0.0.1:{self.port};")

    def answers(self) -> bool:
        """Tell whether it is there."""
        try:
            return plain.get(f"{self.address}/health", timeout=5).status_code == 200
        except httpx.HTTPError:
            assert self.process.poll() is None, "nginx has ended."
            return False

    def stop(self) -> None:
        """End it."""
        self.process.terminate()
        self.process.wait(20)
        self.folder.cleanup()
