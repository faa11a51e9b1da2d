"""Images that come into texts: what they are stays, what they hide does not."""

import io
import unittest

from PIL import Image

from inner_tone.formats.image import MOST_ACROSS, ImageError, read_image

BLUE = (20, 60, 90)


def file_of(image: Image.Image, kind: str, **more: object) -> bytes:
    file = io.BytesIO()
    image.save(file, kind, **more)
    return file.getvalue()


class ImageTest(unittest.TestCase):
    def test_kinds(self) -> None:
        image = Image.new("RGB", (40, 20), BLUE)
        for kind, media in (("PNG", "image/png"), ("JPEG", "image/jpeg"), ("WEBP", "image/png"), ("GIF", "image/png")):
            found = read_image(file_of(image, kind))
            self.assertEqual((found.media_type, found.width, found.height), (media, 40, 20), kind)
            with Image.open(io.BytesIO(found.data)) as again:
                pixel = again.convert("RGB").getpixel((20, 10))
            assert isinstance(pixel, tuple)
            self.assertTrue(all(abs(a - b) <= 4 for a, b in zip(pixel, BLUE, strict=True)), (kind, pixel))

    def test_large_one_is_made_small_and_keeps_its_shape(self) -> None:
        found = read_image(file_of(Image.new("L", (4000, 1000)), "PNG"))
        self.assertEqual((found.width, found.height), (MOST_ACROSS, MOST_ACROSS // 4))

    def test_photo_is_turned_upright_and_says_nothing_of_where_it_was_taken(self) -> None:
        image = Image.new("RGB", (40, 20), BLUE)
        exif = Image.Exif()
        exif[0x0112] = 6  # held upright
        exif[0x010E] = "the north mole"
        found = read_image(file_of(image, "JPEG", exif=exif))
        self.assertEqual((found.width, found.height), (20, 40))
        self.assertNotIn(b"north mole", found.data)

    def test_what_is_none_and_what_is_damaged(self) -> None:
        whole = file_of(Image.effect_noise((200, 200), 90), "PNG")
        svg = b"<svg xmlns='http://www.w3.org/2000/svg'><script>1</script></svg>"
        for data, message in ((b"no image", "no image"), (svg, "no image"), (whole[: len(whole) // 2], "damaged")):
            with self.assertRaisesRegex(ImageError, message):
                read_image(data)


if __name__ == "__main__":
    unittest.main()
