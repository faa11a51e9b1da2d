"""The tests, by the parts of the product that they try."""

import os

# several processes of tests share two cores: threads of linear algebra would only get in their way
os.environ |= {name: "1" for name in ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS")}
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)  # what tests start would compile all of it each time
