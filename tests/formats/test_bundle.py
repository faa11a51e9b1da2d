"""Bundles: the same bytes there and back, and thousands of files that are none, each with a sentence."""

import io
import random
import resource
import stat
import struct
import unittest
import warnings
import zipfile
from collections import Counter
from collections.abc import Callable
from hashlib import sha256

import numpy as np
from PIL import Image

from inner_tone.core.errors import InnerToneError
from inner_tone.core.lens.kinds.spectrum import SpectrumView
from inner_tone.core.lens.recipe import Behind, Recipe
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.plate import Plate
from inner_tone.core.patch.port import Port
from inner_tone.demo.foghorn import BLASTS, DISTANT, LESSON
from inner_tone.formats.audio import flac_bytes
from inner_tone.formats.bundle import MOST_BYTES, Bundle, BundledSound, bundle_bytes, opened
from inner_tone.formats.series import SeriesBundle, SeriesDocument, opened_any, series_bytes
from tests.support.figures import record

HOSTILE = 300  # 2,000 have been tried; they take two minutes
MOST_MEMORY = 300_000_000


def picture(kind: str = "PNG") -> bytes:
    """Return a small image."""
    file = io.BytesIO()
    Image.new("RGB", (30, 20), (20, 60, 90)).save(file, kind)
    return file.getvalue()


def full() -> Bundle:
    """Return a bundle with all that there can be in one."""
    image = picture()
    flac = flac_bytes(np.sin(np.arange(24_000) / 20.0), 48_000.0)
    image_key, sound_key = sha256(image).hexdigest(), sha256(flac).hexdigest()
    behind = Behind(legend="The worn one", recording=sound_key)
    recipe = Recipe(view=SpectrumView(kind="spectrum", taps=(Port("out.left"),)), patch=DISTANT, phrase=BLASTS)
    plate = Plate(id="beside", recipe=recipe.model_copy(update={"behind": behind}))
    step = LESSON.steps[4].model_copy(update={"why": f"A mole: ![mole](/api/images/{image_key})", "plates": (plate,)})
    lesson = LESSON.model_copy(update={"steps": (*LESSON.steps[:2], step)})
    return Bundle(lesson, {image_key: image}, {sound_key: BundledSound("Worn \N{SNOWMAN}", 0.5, flac)})


def packed(files: dict[str, bytes], **told: int) -> bytes:
    """Return files as a ZIP file."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as bundle:
        for name, content in files.items():
            info = zipfile.ZipInfo(name)
            info.external_attr = told.get("mode", 0o644) << 16
            bundle.writestr(info, content, zipfile.ZIP_DEFLATED)
    return buffer.getvalue()


def files_of(data: bytes) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(data)) as bundle:
        return {name: bundle.read(name) for name in bundle.namelist()}


GOOD = bundle_bytes(full())
FILES = files_of(GOOD)


class BundleTest(unittest.TestCase):
    def test_written_opened_and_written_again_it_is_the_same(self) -> None:
        for bundle in (full(), Bundle(LESSON), Bundle(LessonDocument(title="Nothing yet"))):
            data = bundle_bytes(bundle)
            found = opened(data)
            self.assertEqual(found.lesson, bundle.lesson)
            self.assertEqual(bundle_bytes(found), data)

    def test_every_part_is_looked_at(self) -> None:
        image, sound = (next(name for name in FILES if name.startswith(kind)) for kind in ("images", "sounds/"))
        other = picture("JPEG")
        for change, said in (
            ({image: picture("JPEG")}, "not what its name says"),
            ({f"images/{sha256(other).hexdigest()}.jpg": other}, "does not need"),
            ({f"images/{sha256(b'x').hexdigest()}.png": b"x"}, "damaged"),
            ({f"images/{sha256(other).hexdigest()}.png": other}, "another kind"),
            ({sound: b"fLaC"}, "not what its name says"),
            ({f"sounds/{sha256(b'fLaC').hexdigest()}.flac": b"fLaC"}, "what .* is called"),
            ({"sounds.json": b"[]"}, "not what it should be"),
            ({"sounds.json": b"{}"}, "is called"),
            ({"lesson.json": b"[" * 200_000}, "nested too deep"),
            ({"lesson.json": b'{"title": "A", "steps": [{"patch": {"modules": [{"id": "a", "type": "v"}]}}]}'}, "type"),
            ({"lesson.json": b'{"format": "inner-tone/lesson", "version": 99, "title": "A"}'}, "version"),
            ({"../lesson.json": b"{}"}, "has no place"),
            ({"/etc/passwd": b"x"}, "has no place"),
            ({"images/": b""}, "has no place"),
            ({"notes.txt": b"Hello"}, "has no place"),
        ):
            with self.subTest(said=said), self.assertRaisesRegex(InnerToneError, said):
                opened(packed({**FILES, **change}))
        for gone, said in ((image, "image of the lesson is missing"), ("lesson.json", "no lesson.json")):
            rest = {name: content for name, content in FILES.items() if name != gone}
            with self.subTest(said=said), self.assertRaisesRegex(InnerToneError, said):
                opened(packed(rest))
        with self.assertRaisesRegex(InnerToneError, "a link"):
            opened(packed(FILES, mode=stat.S_IFLNK | 0o777))

    def test_bombs_go_off_in_a_sentence(self) -> None:
        bomb = packed({"lesson.json": b" " * (3 * MOST_BYTES)})
        self.assertLess(len(bomb), 1_000_000)
        with self.assertRaisesRegex(InnerToneError, "too large"):
            opened(bomb)
        with self.assertRaisesRegex(InnerToneError, "600 files"):
            opened(packed({f"images/{number:064x}.png": b"x" for number in range(600)}))
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            twice = io.BytesIO(GOOD)
            with zipfile.ZipFile(twice, "a") as bundle:
                bundle.writestr("lesson.json", b"{}")
        with self.assertRaisesRegex(InnerToneError, "twice"):
            opened(twice.getvalue())

    def test_thousands_of_hostile_files_each_get_a_sentence(self) -> None:
        dice, said = random.Random(17), Counter[str]()
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        for number in range(HOSTILE):
            name, make = dice.choice(list(KINDS.items()))
            data = make(dice)
            with self.subTest(number=number, kind=name):
                try:
                    found = opened(data)
                except InnerToneError as error:
                    self.assertGreater(len(str(error)), 10)
                    said[name] += 1
                else:  # a change that does not matter, such as of a date: what comes is what was there
                    self.assertEqual(found.lesson.title, full().lesson.title)
        grown = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) * 1024
        self.assertLess(grown, MOST_MEMORY)
        self.assertGreater(sum(said.values()), HOSTILE * 0.9)
        for name in KINDS:
            self.assertGreater(said[name], 0, name)
        told = ", ".join(f"{name} {count}" for name, count in said.most_common())
        record("bundles", f"{HOSTILE} hostile files: refused with a sentence", "each, or harmless", told)
        record("bundles", "memory that they take", "300 MB", f"{grown / 1e6:.0f} MB")

    def test_hostile_series_each_get_a_sentence(self) -> None:
        dice = random.Random(23)
        series = SeriesDocument(title="Harbour", starts=(None, 0))
        good = series_bytes(SeriesBundle(series, (full(), full())))
        found = opened_any(good)
        assert isinstance(found, SeriesBundle)
        self.assertEqual(series_bytes(found), good)
        refused = 0
        for number in range(HOSTILE // 3):
            inner = KINDS[dice.choice(list(KINDS))](dice)
            told = dice.choice([b'{"title": "A", "starts": [null, 0]}', b'{"title": "A", "starts": [-1, 9]}', b"[]"])
            files = {"series.json": told, "lessons/001.zip": GOOD, "lessons/002.zip": inner}
            data = packed(files) if dice.random() < 0.7 else good[: dice.randrange(len(good))]
            with self.subTest(number=number):
                try:
                    opened_any(data)
                except InnerToneError as error:
                    self.assertGreater(len(str(error)), 10)
                    refused += 1
        self.assertGreater(refused, HOSTILE // 3 * 0.8)


def cut(dice: random.Random) -> bytes:
    return GOOD[: dice.randrange(len(GOOD))]


def noisy(dice: random.Random) -> bytes:
    data = bytearray(GOOD)
    for _ in range(dice.randint(1, 40)):
        data[dice.randrange(len(data))] = dice.randrange(256)
    return bytes(data)


def noise(dice: random.Random) -> bytes:
    return b"PK\x03\x04"[: dice.randint(0, 4)] + dice.randbytes(dice.randint(0, 3_000))


def wrong_json(dice: random.Random) -> bytes:
    text = FILES["lesson.json"].decode()
    place = dice.randrange(len(text))
    junk = dice.choice(['"', "{", "]", "1e999", "null", "\\u0000", "9" * 400, "[" * 5_000, "\udcff"])
    broken = text[:place] + junk + text[place + dice.randint(1, 9) :]
    return packed({**FILES, "lesson.json": broken.encode("utf-8", "surrogatepass")})


def wrong_value(dice: random.Random) -> bytes:
    text = FILES["lesson.json"].decode()
    old, new = dice.choice(
        [
            ('"depth": 1', '"depth": 1e300'),
            ('"tempo": ', '"tempo": -'),
            ('"beats": ', '"beats": "x'),
            ('"type": "', '"type": "no-'),
            ('"modules": [', '"modules": {'),
            ('"steps": [', '"steps": [null, '),
            ('"title": "', '"title": ["'),
            ('"from": "', '"from": "nowhere.'),
        ]
    )
    return packed({**FILES, "lesson.json": text.replace(old, new, dice.randint(1, 3)).encode()})


def strange_name(dice: random.Random) -> bytes:
    name = dice.choice(["../x", "/etc/x", "C:\\x", "images/../x", "a" * 60_000, "lesson.json/", "\x00", "images/x.svg"])
    return packed({**FILES, name: b"x"})


def lying_header(dice: random.Random) -> bytes:
    data = bytearray(GOOD)
    place = GOOD.rindex(b"PK\x01\x02") if dice.random() < 0.5 else GOOD.index(b"PK\x01\x02")
    where = dice.choice([8, 10, 16, 20, 24, 28, 30, 32, 42])
    struct.pack_into("<I", data, place + where, dice.choice([0xFFFFFFFF, 0x7FFFFFFF, 1 << 20, 3]))
    return bytes(data)


def wrong_sound(dice: random.Random) -> bytes:
    name = next(one for one in FILES if one.startswith("sounds/"))
    flac = bytearray(FILES[name])
    for _ in range(dice.randint(1, 30)):
        flac[dice.randrange(len(flac))] = dice.randrange(256)
    changed = bytes(flac)[: dice.randint(1, len(flac))]
    key = sha256(changed).hexdigest()
    rest = {one: content for one, content in FILES.items() if one != name}
    lesson = FILES["lesson.json"].replace(name[7:71].encode(), key.encode())
    names = b'{"%s": {"name": "x"}}' % key.encode()
    return packed({**rest, "lesson.json": lesson, "sounds.json": names, f"sounds/{key}.flac": changed})


def wrong_image(dice: random.Random) -> bytes:
    name = next(one for one in FILES if one.startswith("images/"))
    image = bytearray(FILES[name])
    for _ in range(dice.randint(1, 8)):
        image[dice.randrange(len(image))] = dice.randrange(256)
    changed = bytes(image)[: dice.randint(1, len(image) - 1)]
    key = sha256(changed).hexdigest()
    rest = {one: content for one, content in FILES.items() if one != name}
    lesson = FILES["lesson.json"].replace(name[7:71].encode(), key.encode())
    return packed({**rest, "lesson.json": lesson, f"images/{key}.png": changed})


KINDS: dict[str, Callable[[random.Random], bytes]] = {
    "cut off": cut,
    "noise in it": noisy,
    "noise": noise,
    "broken JSON": wrong_json,
    "wrong values": wrong_value,
    "strange names": strange_name,
    "lying headers": lying_header,
    "damaged sounds": wrong_sound,
    "damaged images": wrong_image,
}


if __name__ == "__main__":
    unittest.main()
