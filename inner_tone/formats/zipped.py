"""ZIP files that are the same bytes for the same content."""

import io
import zipfile
from collections.abc import Mapping

BEGINNING = (1980, 1, 1, 0, 0, 0)  # the date of everything: the earliest that a ZIP file can have
PACKED = (".json", ".md", ".html", ".xml", ".csv", ".svg")  # the rest is compressed already


def zipped(files: Mapping[str, bytes]) -> bytes:
    """Return files by their names as a ZIP file."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as written:
        for name in sorted(files):
            kind = zipfile.ZIP_DEFLATED if name.endswith(PACKED) else zipfile.ZIP_STORED
            written.writestr(zipfile.ZipInfo(name, BEGINNING), files[name], kind)
    return buffer.getvalue()
