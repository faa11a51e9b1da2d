"""A lesson in one file as a package for learning platforms, which nearly all of them open.

Advanced Distributed Learning, “SCORM Content Aggregation Model” and “Run-Time Environment”, version 1.2, 2001. The page
reports to the platform around it how far somebody is, and that they have been through.
"""

from html import escape

from inner_tone.formats.handout import PAGES
from inner_tone.formats.zipped import zipped

MANIFEST = """<?xml version="1.0" encoding="UTF-8"?>
<manifest identifier="inner-tone-{key}" version="1.0" xmlns="http://www.imsproject.org/xsd/imscp_rootv1p1p2"
  xmlns:adlcp="http://www.adlnet.org/xsd/adlcp_rootv1p2">
  <metadata><schema>ADL SCORM</schema><schemaversion>1.2</schemaversion></metadata>
  <organizations default="lesson">
    <organization identifier="lesson"><title>{title}</title>
      <item identifier="item" identifierref="page"><title>{title}</title></item>
    </organization>
  </organizations>
  <resources>
    <resource identifier="page" type="webcontent" adlcp:scormtype="sco" href="index.html">
      <file href="index.html"/>
    </resource>
  </resources>
</manifest>
"""


def reports() -> str:
    """Return the script by which the page tells the platform around it how far somebody is."""
    return (PAGES / "reports.js").read_text()


def package(key: str, title: str, page: bytes) -> bytes:
    """Return a page that reports as a package; `key` is the same for the same lesson."""
    manifest = MANIFEST.format(key=escape(key), title=escape(title))
    return zipped({"imsmanifest.xml": manifest.encode(), "index.html": page})
