"""A page of another origin reads in a real browser what readers read, and nothing else."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.conftest import Running
from tests.console.conftest import Open, shown

pytestmark = pytest.mark.browser


ASK = """async ([url, id, phrase]) => {
  const json = { "Content-Type": "application/json" };
  const list = await fetch(`${url}/read/entries?type=notice&limit=1`);
  const etag = list.headers.get("etag");
  const again = await fetch(`${url}/read/entries?type=notice&limit=1`, { headers: { "If-None-Match": etag }, cache: "no-store" });
  const asked = { questions: { news: { types: ["notice"], limit: 1 } } };
  const several = await fetch(`${url}/read/questions`, { method: "POST", headers: json, body: JSON.stringify(asked) });
  const shut = await (await fetch(`${url}/read/entries/${id}?locale=en`)).json();
  const unlocking = { method: "POST", headers: json, body: JSON.stringify({ phrase }) };
  const { token } = await (await fetch(`${url}/read/entries/${id}/unlock`, unlocking)).json();
  const open = await (await fetch(`${url}/read/entries/${id}?locale=en`, { headers: { "Hawthorn-Unlocked": token } })).json();
  const feed = await fetch(`${url}/feeds/live/json?type=notice`);
  const other = await fetch(`${url}/api/health`).then(() => "read", () => "refused");
  return {
    next: list.headers.get("link"), etag, again: again.status, several: Object.keys((await several.json()).answers ?? {}),
    shut: [shut.locked, Object.keys(shut.fields)], open: Object.keys(open.fields), feed: (await feed.json()).items.length, other,
  };
}"""


def test_a_page_of_another_origin_reads_lists_asks_and_opens_what_is_locked(
    running: Running, open_as: Open, tmp_path: Path
) -> None:
    entry = running.out("Locked for other pages")
    running.as_("ida").limit(entry.id, "locked", phrase="seven bells")
    # What is refused is said in the log of the page.
    page = open_as("", "/log-in", expect=("CORS policy", "ERR_FAILED", "401 (Unauthorized)"))
    (tmp_path / "index.html").write_text("<title>Elsewhere</title><link rel='icon' href='data:,'>")
    with shown(tmp_path) as elsewhere:
        page.goto(elsewhere)
        found = page.evaluate(ASK, [running.url, entry.id, "seven bells"])
    assert 'rel="next"' in found["next"]
    assert found["again"] == 304, "the entity tag can be read and sent"
    assert found["several"] == ["news"]
    assert found["shut"] == [True, []]
    assert "title" in found["open"]
    assert found["feed"] > 0
    assert found["other"] == "refused", "what is no reading is for our own pages"
