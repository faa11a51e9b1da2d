"""How an operator sets up the application: by the environment. `docs/settings.md` is written from what stands here."""

import os
from ipaddress import ip_network
from typing import Annotated, Any, Literal

from pydantic import BeforeValidator, Field, ValidationError
from pydantic_settings import BaseSettings, NoDecode, SettingsConfigDict

from inner_tone.core.errors import InnerToneError, did_you_mean

PREFIX = "INNER_TONE_"
Admission = Literal["anyone", "invited", "nobody"]


def several(given: object) -> object:
    """Return what is written with commas as a list."""
    return [one.strip() for one in given.split(",") if one.strip()] if isinstance(given, str) else given


def networks(given: object) -> object:
    """Return addresses and networks as a list; raises ValueError for one that is none."""
    found = several(given)
    for one in found if isinstance(found, (list, tuple)) else ():
        ip_network(one, strict=False)
    return found


Hosts = Annotated[tuple[str, ...], NoDecode, BeforeValidator(several)]
Networks = Annotated[tuple[str, ...], NoDecode, BeforeValidator(networks)]


class Settings(BaseSettings):
    """What can be set, each by the variable of its name in capital letters after INNER_TONE_."""

    model_config = SettingsConfigDict(env_prefix=PREFIX, frozen=True, extra="ignore")

    database: str = Field(
        "",
        description="The database, as postgresql+psycopg://user@host:5432/name. A password may stand in it, or better "
        "in a file that PGPASSFILE names; on a command line everybody on the machine could read it.",
    )
    address: str = Field("127.0.0.1", description="The address to listen on.")
    port: int = Field(0, ge=0, le=65_535, description="The port to listen on; 0 takes a free one and says which.")
    hosts: Hosts = Field(
        ("localhost", "127.0.0.1", "[::1]"),
        description="The names by which the application is reached, with commas; * stands for any, *.school.example "
        "for all below it. Requests for others are refused.",
    )
    trusted_proxies: Networks = Field(
        (),
        description="Addresses and networks of the proxies before it, with commas. Only they are believed when they "
        "say from where, and over which scheme, a request has come.",
    )
    watchers: Networks = Field(
        ("127.0.0.1", "::1"), description="Addresses and networks that may read /metrics, with commas."
    )
    workers: int | None = Field(
        None, ge=1, le=256, description="Processes that work; by itself as many as there are processors, two at least."
    )
    jobs: int = Field(
        1, ge=0, le=32, description="How many long jobs this node does at once; 0 leaves them to other nodes."
    )
    learners: Admission = Field(
        "anyone",
        description="Who may make an account as a learner: anyone, who is invited (bin/inner-tone invite), or nobody.",
    )
    educators: Admission = Field("anyone", description="Who may make an account as an educator: the same.")
    cost_seconds: float = Field(
        60.0, gt=0, le=3_600, description="Seconds of one core that one wish may take, as they are bounded beforehand."
    )
    kept_sounds: int = Field(200, ge=1, le=100_000, description="How many sounds of saved steps are kept ready.")
    recording_minutes: float = Field(
        60.0, gt=0, le=6_000, description="How many minutes of recordings one account may keep."
    )
    sound_minutes: float = Field(
        30.0, gt=0, le=6_000, description="How many minutes of sounds for samplers one account may keep."
    )
    log: Literal["text", "json"] = Field(
        "text", description="text writes warnings for people; json writes every request too, one object in a line."
    )


def settings_from(**given: Any) -> Settings:
    """Return the settings of the environment, with what is given put in place of it; raises InnerToneError."""
    known = [f"{PREFIX}{name}".upper() for name in Settings.model_fields]
    for name in os.environ:
        if name.startswith(PREFIX) and name not in known:
            raise InnerToneError(f"{name} is no setting. {did_you_mean(name, known)}")
    try:
        return Settings(**{name: value for name, value in given.items() if value is not None})
    except ValidationError as error:
        first = error.errors()[0]
        name = f"{PREFIX}{first['loc'][0]}".upper()
        raise InnerToneError(f"{name} is set to what it cannot be: {first['msg']}.") from error
