"""What the simulated bureau knows: some sentences, and words."""

from __future__ import annotations

from hawthorn.demo.museum import ARCHIVE

_PAIRS = """
the|le|その
a|un|一つの
of|de|の
and|et|と
in|dans|で
at|à|で
on|sur|の上
from|depuis|から
to|à|へ
for|pour|のために
with|avec|と共に
was|était|でした
is|est|です
it|il|それ
its|son|その
this|cette|この
that|qui|その
by|par|によって
when|quand|とき
lamp|lampe|ランプ
harbour|port|港
boat|bateau|舟
pilot|pilote|水先人
bell|cloche|鐘
fog|brume|霧
rope|corde|綱
coil|rouleau|巻き
chart|carte|海図
bay|baie|湾
pier|jetée|桟橋
keeper|gardien|番人
light|lumière|灯り
glass|verre|ガラス
brass|laiton|真鍮
oil|huile|油
evening|soir|夕方
every|chaque|毎
years|ans|年
year|année|年
museum|musée|博物館
open|ouvert|開館
closed|fermé|休館
free|gratuite|無料
entry|entrée|入場
first|premier|最初の
sunday|dimanche|日曜日
month|mois|月
day|jour|日
noon|midi|正午
north|nord|北
small|petite|小さな
thick|épais|厚い
flame|flamme|炎
beam|faisceau|光線
height|hauteur|高さ
weight|poids|重さ
seen|vue|見えた
miles|milles|マイル
how|comment|どのように
worked|fonctionnait|働いた
visitors|visiteurs|来館者
lift|ascenseur|昇降機
floor|étage|階
repaired|réparé|修理中
staff|personnel|係員
desk|accueil|受付
end|bout|端
stood|se dressait|立っていた
lit|allumait|灯した
dusk|crépuscule|夕暮れ
be|être|ある
had|avait|持っていた
he|il|彼は
she|elle|彼女は
ships|navires|船
built|construit|造られた
water|eau|水
new|nouvelle|新しい
old|ancienne|古い
winter|hiver|冬
summer|été|夏
hours|heures|時間
ten|dix|十
four|quatre|四
rang|sonnait|鳴らした
rung|sonnée|鳴らされる
electric|électrique|電気
could|pouvait|できた
turned|changeait|変えた
drew|tirait|吸い上げた
up|vers le haut|上へ
round|ronde|丸い
wick|mèche|灯心
tank|réservoir|油槽
into|en|に
"""
_SENTENCES = """
The harbour lamp|La lampe du port|港のランプ
The fog bell|La cloche de brume|霧の鐘
How it worked|Comment elle fonctionnait|その仕組み
Free entry on the first Sunday|Entrée gratuite le premier dimanche|第一日曜日は入場無料
Entry is free on the first Sunday of every month.|L'entrée est gratuite le premier dimanche de chaque mois.|毎月第一日曜日は入場無料です。
The fog bell is rung at noon.|La cloche de brume sonne à midi.|正午に霧の鐘が鳴ります。
This lamp stood at the end of the north pier from 1841.|Cette lampe se dressait au bout de la jetée nord dès 1841.|このランプは1841年から北桟橋の先に立っていました。
Its keeper lit it every evening at dusk.|Son gardien l'allumait chaque soir au crépuscule.|番人が毎晩、日暮れに灯しました。
Height: 84 cm|Hauteur : 84 cm|高さ：84センチ
Weight: 31 kg|Poids : 31 kg|重さ：31キロ
The lamp that stood at the end of the north pier for seventy years.|La lampe qui se dressa soixante-dix ans au bout de la jetée nord.|七十年のあいだ北桟橋の先に立っていたランプ。
It rang every thirty seconds when the lamp could not be seen.|Elle sonnait toutes les trente secondes quand la lampe ne se voyait pas.|灯りが見えないとき、三十秒ごとに鳴りました。
In fog the lamp was of no use, and the keeper rang this bell every thirty seconds.|Dans la brume, la lampe ne servait à rien, et le gardien sonnait cette cloche toutes les trente secondes.|霧の中では灯りは役に立たず、番人は三十秒ごとにこの鐘を鳴らしました。
After 1889 a clockwork did it for him.|Après 1889, un mécanisme le fit à sa place.|1889年からは時計仕掛けがその役を務めました。
You can hear it on the first Sunday of each month.|On peut l'entendre le premier dimanche de chaque mois.|毎月第一日曜日に音を聞くことができます。
"""


def _read(text: str, column: int) -> dict[str, str]:
    rows = (line.split("|") for line in text.strip().splitlines())
    return {row[0]: row[column] for row in rows}


WORDS = {"fr": _read(_PAIRS, 1), "ja": _read(_PAIRS, 2)}


def _archived(locale: str) -> dict[str, str]:
    """What labels of the register say, and what things are called."""
    found = {}
    for number, thing in enumerate(ARCHIVE.things):
        found[thing.en] = getattr(thing, locale)
        pairs = zip(ARCHIVE.sentences(number, "en"), ARCHIVE.sentences(number, locale), strict=True)
        found |= dict(pairs)
    return found


SENTENCES = {
    "fr": _archived("fr") | _read(_SENTENCES, 1),
    "ja": _archived("ja") | _read(_SENTENCES, 2),
    "de": _archived("de"),
    "ar": _archived("ar"),
}
