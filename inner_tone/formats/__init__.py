"""Files that leave Inner Tone and come into it."""

import logging

# it speaks of its font cache, which is nobody's concern here
logging.getLogger("matplotlib").setLevel(logging.ERROR)
