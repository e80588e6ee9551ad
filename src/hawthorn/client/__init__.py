"""The client library: each call defined once, sent at once or awaited."""

from hawthorn.client.errors import ClientError, Refusal, Unreachable
from hawthorn.client.paging import every
from hawthorn.client.senders import AsyncClient, Client

__all__ = ["AsyncClient", "Client", "ClientError", "Refusal", "Unreachable", "every"]
