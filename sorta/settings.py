"""All settings, read by main only. Every one is listed in CONTRIBUTING.md, which a test holds."""

from pathlib import Path
from typing import Literal

from pydantic import Field, SecretStr
from pydantic_settings import BaseSettings, SettingsConfigDict

#: Where `python -m sorta.main learn` keeps what it learned.
LEARNED = Path(__file__).resolve().parent / "learned" / "reading.npz"


class Settings(BaseSettings):
    """Read from the environment, each name with `SORTA_` in front."""

    model_config = SettingsConfigDict(env_prefix="SORTA_", extra="ignore")

    database: str = Field(description="PostgreSQL address of the application's role (not the owner)")
    owner_database: str | None = Field(None, description="PostgreSQL address of the owning role, for migrations")
    backup_database: str | None = Field(None, description="PostgreSQL address of the role that copies are read as")
    keys: str = Field(
        "",
        description="Keys, newest first with commas between, that seal secrets and sign passes; `make-key` makes one",
    )
    keys_file: Path | None = Field(None, description="A file with the keys, one a line, instead of the setting")
    port: int = Field(8700, description="Port that the web process listens on, loopback only")
    trusted_proxies: str = Field(
        "",
        description="Addresses, with commas between, whose word on where a request came from is taken; none unless set",
    )
    secure_cookies: bool | None = Field(
        None,
        description="Send cookies over HTTPS only, and have browsers come by it alone; on when the address is https unless set",
    )
    undo_seconds: float = Field(10, description="How long a reply is held back so that it can be undone")
    lease_seconds: float = Field(60, description="After how long a silent delivery is taken up again")
    network_timeout: float = Field(10, description="Seconds to wait for a network's answer")
    network_clients: Path | None = Field(
        None,
        description="A JSON file with what this installation is to networks that are asked at their own page: of each its issuer, client_id, client_secret, api_url and scope; without it accounts are connected with tokens",
    )
    identity_provider: Path | None = Field(
        None,
        description="A JSON file with the OpenID Connect provider that members may sign in by: name, issuer, client_id, client_secret, and if need be scope and groups, the claim their groups stand in",
    )
    allow_private: bool = Field(
        False, description="Let networks, desks and the translator be at loopback or private addresses; for the demo"
    )
    translator_url: str | None = Field(
        None, description="Address of the translator service; without it nothing is translated"
    )
    text_url: str | None = Field(
        None, description="Address of the gateway for text messages; without it nobody is told by them"
    )
    text_token: SecretStr = Field(SecretStr(""), description="What lets Sorta in at the gateway for text messages")
    mail_server: str | None = Field(None, description="host:port that takes mail by SMTP; without it nothing is mailed")
    mail_security: Literal["starttls", "tls", "none"] = Field(
        "starttls", description="How the mail server is spoken to: starttls, tls from the first byte, or none"
    )
    mail_user: str | None = Field(None, description="Who signs in to the mail server; nobody unless set")
    mail_password: SecretStr = Field(SecretStr(""), description="The password of who signs in to the mail server")
    mail_ca: Path | None = Field(
        None, description="A file of certificates that the mail server's may be signed with, beside the system's"
    )
    mail_from: str = Field("sorta@localhost", description="Sender of what is mailed")
    mail_secret: str | None = Field(
        None, description="Standard Webhooks secret of whoever passes mail on to us; without it nobody outside is asked"
    )
    address: str = Field("", description="Where members reach Sorta, for links in mails")
    reading: Path = Field(LEARNED, description="The file of weights that messages are read by; `learn` makes it")
    files: Path | None = Field(None, description="Folder for files sent along with answers; without it none can be")
    demo_password: str | None = Field(None, description="Shown on the sign-in page; set by the demo alone")
    metrics_token: str | None = Field(
        None, description="What whoever reads /metrics says as a bearer token; without it there are none"
    )
    log_level: str = Field("INFO", description="Least severe level that is logged")

    @property
    def is_secure(self) -> bool:
        """Whether members come by HTTPS only."""
        return self.address.startswith("https:") if self.secure_cookies is None else self.secure_cookies
