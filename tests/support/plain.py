"""Requests to addresses on this machine, which show no certificates: httpx reads all it knows for each (0.4 s)."""

from functools import partial

import httpx

get = partial(httpx.get, verify=False)
post = partial(httpx.post, verify=False)
client = partial(httpx.Client, verify=False)
