"""The demo's public site keeps what it read, and is told at once what changed."""

from __future__ import annotations

import httpx

from tests.conftest import Running, eventually


def test_a_comma_is_seen_at_once_and_what_did_not_change_is_not_read_again(running: Running) -> None:
    entry = running.out("The comma of the harbour")
    lasting = running.out("The lasting notice")
    ida = running.as_("ida")
    site = running.demo.ports.url("site")
    paths = [ida.read(one.id).path for one in (entry, lasting)]
    with httpx.Client(base_url=site) as reader:
        for path in paths:
            assert reader.get(path or "").status_code == 200
        hook = next(w for w in ida.webhooks().items if w.name == "The public site")
        assert ida.try_webhook(hook.id).answers
        wim = running.as_("wim")
        seen = wim.entry(entry.id, "en")
        wim.save(entry.id, "en", {"body": "<p>Mind the comma, please.</p>"}, etag=seen.etag)
        wim.submit(entry.id, "en")
        number = wim.entry(entry.id, "en").revision.number
        running.as_("tomas").sign_off(entry.id, "en", number)
        assert "comma, please" not in reader.get(paths[0] or "").text
        made = running.as_("jonas").dispatch([{"id": entry.id, "locale": "en"}])
        eventually(lambda: "comma, please" in reader.get(paths[0] or "").text)
        told = next(d for d in ida.deliveries(hook.id, limit=50).items if made.id in d.body)
        assert told.state == "delivered"
        assert [t.status for t in told.tries] == [204]
        assert f'"{paths[0]}"' in told.body
        assert f'"{paths[1]}"' not in told.body
        # What nobody signed drops nothing.
        assert reader.post("/changed", content=told.body).status_code == 401
    again = ida.deliver_again(hook.id, told.id)
    assert again is None
    eventually(
        lambda: (
            [t.status for d in ida.deliveries(hook.id, limit=50).items if d.id == told.id for t in d.tries]
            == [204, 204]
        )
    )
