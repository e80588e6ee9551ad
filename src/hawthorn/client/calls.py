"""Every call of the service, each defined once, in the areas of the service."""

from __future__ import annotations

from hawthorn.client.access import AccessCalls
from hawthorn.client.collaboration import CollaborationCalls
from hawthorn.client.commissions import CommissionCalls
from hawthorn.client.content import ContentCalls
from hawthorn.client.delivery import DeliveryCalls
from hawthorn.client.exchange import ExchangeCalls
from hawthorn.client.glossaries import GlossaryCalls
from hawthorn.client.media import MediaCalls
from hawthorn.client.memories import MemoryCalls
from hawthorn.client.reading import ReadingCalls
from hawthorn.client.release import ReleaseCalls
from hawthorn.client.search import SearchCalls
from hawthorn.client.standing_commissions import StandingCommissionCalls
from hawthorn.client.translation import TranslationCalls
from hawthorn.client.views import ViewsCalls


class Calls(
    AccessCalls,
    ContentCalls,
    SearchCalls,
    ReleaseCalls,
    DeliveryCalls,
    ReadingCalls,
    MediaCalls,
    TranslationCalls,
    CommissionCalls,
    StandingCommissionCalls,
    MemoryCalls,
    GlossaryCalls,
    CollaborationCalls,
    ViewsCalls,
    ExchangeCalls,
):
    """The calls, without a way to send them."""
