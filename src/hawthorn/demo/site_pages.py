"""The pages of the museum's site: templates."""

from __future__ import annotations

PAGE = """<!doctype html>
<html lang="{{ locale }}" dir="{{ 'rtl' if locale == 'ar' else 'ltr' }}"{% if mark_page %} data-hawthorn-page="{{ mark_page }}"{% endif %}>
<meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>{{ head.title or title }}{% if not front %} – {{ house }}{% endif %}</title>
{% if head.description %}<meta name="description" content="{{ head.description }}">{% endif %}
{% for one in head.open_graph %}<meta property="{{ one.property }}" content="{{ one.content }}">{% endfor %}
{% if drafted or not head.index %}<meta name="robots" content="noindex">{% endif %}
{% if head.address and not drafted %}<link rel="canonical" href="{{ head.address }}">{% endif %}
{% for one in head.alternates %}<link rel="alternate" hreflang="{{ one.locale }}" href="{{ one.address }}">{% endfor %}
{% if not drafted %}<link rel="alternate" type="application/atom+xml" href="/feed.atom?locale={{ locale }}" title="{{ house }}">{% endif %}
{% if head.linked_data %}<script type="application/ld+json">{{ head.linked_data|tojson }}</script>{% endif %}
<link rel="stylesheet" href="/site.css">
{% if drafted %}<script src="{{ script }}" defer></script>{% endif %}
<body>
{% if drafted %}<p class="draft" role="status">Preview: {{ drafted }}{% if drafted != 'what is out' %}, not what readers see{% endif %}. <a href="{{ out }}">See what is out</a></p>{% endif %}
<header><div class="top"><b><a href="{{ link('/' ~ locale) }}">{{ house }}</a></b>
<form role="search" action="/{{ locale }}/search">{% if carried %}<input type="hidden" name="preview" value="{{ carried }}">{% endif %}<input name="words" type="search" value="{{ asked }}" maxlength="200" aria-label="{{ say.search }}" placeholder="{{ say.search }}"><button>{{ say.search_button }}</button></form></div>
<div class="top">
{% if menu %}<nav aria-label="{{ menu.title }}"{{ mark(menu.id) }}><ul>{% for item in menu.fields['items'] or [] %}{% set f = item.fields %}
<li><a href="{{ link((f.to or {}).href) }}"{{ mark(menu.id, 'items:' ~ item.id ~ ':label') }}>{{ f.label or (f.to or {}).text }}</a>
{% if f.below %}<ul>{% for one in f.below %}<li><a href="{{ link((one.fields.to or {}).href) }}">{{ one.fields.label or (one.fields.to or {}).text }}</a></li>{% endfor %}</ul>{% endif %}</li>{% endfor %}</ul></nav>{% endif %}
<span class="locales" role="navigation" aria-label="{{ say.languages }}">{% for l in locales %}{% if l.path and l.locale != locale %}<a href="{{ link(l.path) }}" lang="{{ l.locale }}" hreflang="{{ l.locale }}">{{ names[l.locale] }}</a> {% endif %}{% endfor %}</span></div></header>
{% block main %}{% endblock %}
<footer><p>{{ house }}<br>{{ say.address }}</p><p><small>{{ say.invented }}</small></p></footer></body></html>"""

BLOCKS = """
{% macro look(f) %}class="block {{ 'space-' ~ (f.spacing or 'even') }} {{ 'on-' ~ f.background if f.background else '' }} {{ 'hide-' ~ f.hidden if f.hidden else '' }}"{% if f.anchor %} id="{{ f.anchor }}"{% endif %}{% endmacro %}
{% macro picture(ref, crop, id, field) %}{% set p = (ref or {}).file %}{% if p %}{% if (p.media_type or '').startswith('video/') %}
<video controls src="{{ file(p.href) }}"{{ mark(id, field) }}>{% for c in p.captions or [] %}<track kind="captions" src="{{ file(c.href) }}" srclang="{{ c.locale }}" default>{% endfor %}</video>
{% elif (p.media_type or '').startswith('audio/') %}<audio controls src="{{ file(p.href) }}"{{ mark(id, field) }}></audio>
{% else %}{% set r = (p.renditions or {})[crop] %}<picture>{% if r %}<source type="image/avif" srcset="{{ file(r.avif) }}"><source type="image/webp" srcset="{{ file(r.webp) }}">{% endif %}
<img src="{{ file(r.original if r else p.href) }}" alt="{{ p.alt }}" width="{{ r.width if r else p.width }}" height="{{ r.height if r else p.height }}"{{ mark(id, field) }}></picture>{% endif %}{% endif %}{% endmacro %}
{% macro card(e, marked) %}<li class="card">{% set p = pictures.get(e.id) %}{% set r = ((p or {}).renditions or {}).card %}{% if r %}<picture><source type="image/avif" srcset="{{ file(r.avif) }}"><source type="image/webp" srcset="{{ file(r.webp) }}"><img src="{{ file(r.original) }}" alt="" width="{{ r.width }}" height="{{ r.height }}" loading="lazy"></picture>{% endif %}
<div>{% if e.path %}<a href="{{ link(e.path) }}" lang="{{ e.locale }}"{{ mark(e.id, 'title', marked) }}>{{ e.title or 'untitled' }}</a>{% else %}{{ e.title or 'untitled' }}{% endif %}{% set when = dates(e) %}{% if when %}<p class="when">{{ when }}</p>{% endif %}
{% if e.summary %}<p lang="{{ e.locale }}">{{ e.summary }}</p>{% endif %}</div></li>{% endmacro %}
{% macro cards(list, id, path) %}<ul class="cards">{% for e in list['items'] %}{{ card(e, 'In a list') }}{% else %}<li>Nothing at present.</li>{% endfor %}</ul>{% endmacro %}
{% macro hours(e) %}{% if e.fields.hours %}<h2>{{ say.hours }}</h2><dl class="hours"{{ mark(e.id, 'hours') }}>{% for h in e.fields.hours %}<dt>{{ h.fields.days }}</dt><dd>{{ h.fields.hours }}</dd>{% endfor %}</dl>{% endif %}{% endmacro %}
{% macro blocks(items, id, top) %}{% for b in items or [] %}{% set f = b.fields %}{% set at = top ~ ':' ~ b.id %}
{% if b.kind == 'words' %}<div {{ look(f) }}{{ mark(id, at ~ ':text') }}>{{ rich(f.text) }}</div>
{% elif b.kind == 'quote' %}<blockquote {{ look(f) }}{{ mark(id, at ~ ':said') }}>{{ f.said }}{% if f.by in references %} <cite>{{ references[f.by].title }}</cite>{% endif %}</blockquote>
{% elif b.kind == 'picture' %}<figure {{ look(f) }}>{{ picture(references[f.picture], 'wide', id, at ~ ':picture') }}<figcaption{{ mark(id, at ~ ':caption') }}>{{ f.caption or '' }}</figcaption></figure>
{% elif b.kind == 'beside' %}<div {{ look(f) }}><div class="row">{% for c in f.cells or [] %}<div style="grid-column:span {{ 12 // (f.cells|length) }}">{{ blocks([c], id, top) }}</div>{% endfor %}</div></div>
{% elif b.kind == 'row' %}<div {{ look(f) }}><div class="row">{% for c in f.columns or [] %}<div style="grid-column:span {{ c.fields.width or 6 }}" class="{{ 'hide-' ~ c.fields.hidden if c.fields.hidden else '' }}">{{ blocks(c.fields.content, id, top) }}</div>{% endfor %}</div></div>
{% elif b.kind == 'listing' %}<section {{ look(f) }}{{ mark(id, at ~ ':list') }}>{% if f.heading %}<h2{{ mark(id, at ~ ':heading') }}>{{ f.heading }}</h2>{% endif %}{% if f.list %}{{ cards(f.list, id, at) }}{% endif %}</section>
{% elif b.kind == 'kept' %}{% set c = references[f.block] %}{% if c %}<aside {{ look(f) }}{{ mark(id, at ~ ':block') }}>{{ blocks((c.fields or {}).content, c.id, 'content') }}</aside>{% endif %}
{% endif %}{% endfor %}{% endmacro %}"""

ENTRY = """{% extends "page" %}{% from "blocks" import blocks, picture, card, hours with context %}{% block main %}
<div class="frame"><main{% if entry.fields.aside %} class="with-aside"{% endif %}><article lang="{{ entry.locale }}"{% if front %} class="front"{% endif %}>
<h1{{ mark(entry.id, 'title') }}>{{ entry.title or 'untitled' }}</h1>
{% set when = dates(entry) %}{% if when %}<p class="when"{{ mark(entry.id, 'opens') }}>{{ when }}</p>{% endif %}
{% if entry.fields.picture in references %}{{ picture(references[entry.fields.picture], 'wide', entry.id, 'picture') }}{% endif %}
{% if entry.fields.summary %}<p class="summary"{{ mark(entry.id, 'summary') }}>{{ entry.fields.summary }}</p>{% endif %}
{% for name in ('body', 'life') %}{% if entry.fields[name] %}<div{{ mark(entry.id, name) }}>{{ rich(entry.fields[name]) }}</div>{% endif %}{% endfor %}
{% if front %}<div class="row"><div style="grid-column:span 8" class="shows">{% for name, some in shows %}{% if some %}<section><h2>{{ say[name] }}</h2><ul class="cards wide">{% for e in some %}{{ card(e, 'In a list') }}{% endfor %}</ul></section>{% endif %}{% endfor %}</div>
<section style="grid-column:span 4" class="on-sand">{{ hours(entry) }}</section></div>{% endif %}
{{ blocks(entry.fields.page, entry.id, 'page') }}
{% if not front %}{{ hours(entry) }}{% endif %}
{% set price = entry.fields.price %}{% if price %}<h2>{{ say.prices }}</h2><dl class="hours"{{ mark(entry.id, 'price') }}>{% if price.full is defined %}<dt>{{ say.full }}</dt><dd>{{ money(price.full) }}</dd>{% endif %}{% if price.reduced is defined %}<dt>{{ say.reduced }}</dt><dd>{{ money(price.reduced) }}</dd>{% endif %}</dl>{% endif %}
{% set place = entry.fields.place %}{% if place %}<p><a href="geo:{{ place.latitude }},{{ place.longitude }}"{{ mark(entry.id, 'place') }}>{{ say.map }}</a></p>{% endif %}
{% if entry.fields.tickets %}<p><a href="{{ link(entry.fields.tickets.href) }}"{{ mark(entry.id, 'tickets') }}>{{ entry.fields.tickets.text or entry.fields.tickets.href }}</a></p>{% endif %}
{% if below %}<ul class="cards">{% for e in below %}{{ card(e, 'Below it') }}{% endfor %}</ul>{% endif %}
<p><small>{% if entry.fields.number %}<span{{ mark(entry.id, 'number') }}>{{ entry.fields.number }}</span> · {% endif %}{% for r in people %}{% if r.path %}<a href="{{ link(r.path) }}">{{ r.title }}</a>{% else %}{{ r.title }}{% endif %} · {% endfor %}Revision {{ entry.revision }}</small></p>
</article></main>
{% if entry.fields.aside %}<aside class="aside" aria-label="Beside">{{ blocks(entry.fields.aside, frame_of('aside'), 'aside') }}</aside>{% endif %}</div>
{% if entry.fields.foot %}<div class="foot">{{ blocks(entry.fields.foot, frame_of('foot'), 'foot') }}</div>{% endif %}
{% endblock %}"""

SEARCH = """{% extends "page" %}{% from "blocks" import card with context %}{% block main %}<main><h1>{{ title }}</h1>
{% if found %}<ul class="cards wide">{% for e in found %}{{ card(e, 'Found') }}{% endfor %}</ul>{% elif asked %}<p role="status">{{ nothing }}</p>{% endif %}</main>{% endblock %}"""

LOCKED = """{% extends "page" %}{% block main %}<main><h1 lang="{{ entry.locale }}">{{ title }}</h1><p>This page is for those who were given a phrase.</p>
<form method="post" class="phrase"><label for="phrase">Phrase</label><input id="phrase" name="phrase" type="password" required maxlength="200" autocomplete="off"{% if wrong %} aria-describedby="wrong" aria-invalid="true"{% endif %}>
<button>Open the page</button>{% if wrong %}<p id="wrong" role="alert">{{ wrong }}</p>{% endif %}</form></main>{% endblock %}"""

MISSING = """{% extends "page" %}{% block main %}<main><h1>{{ title }}</h1>{% if title == "Not here" %}<p>Nothing is at /{{ path }}.</p>{% endif %}<p><a href="{{ link('/en') }}">To the front page</a></p></main>{% endblock %}"""

CSS = """
:root{color-scheme:light;--ink:#20303a;--water:#1d5a73;--mist:#e3ecee;--sand:#f3ead8;--line:#c9d3d6}
*{box-sizing:border-box}body{margin:0;font:18px/1.6 Georgia,"Noto Serif CJK JP","Noto Naskh Arabic",serif;color:var(--ink);background:#f8faf9}
header,.frame,.foot,main{max-width:68rem;margin:0 auto;padding:1rem 1.2rem}header{border-bottom:1px solid var(--line)}.top{display:flex;gap:.4rem 1.4rem;flex-wrap:wrap;align-items:baseline}
header a{color:inherit}header b{font-size:1.35rem}header b a{text-decoration:none}nav ul{display:flex;flex-wrap:wrap;gap:.3rem 1.2rem;list-style:none;margin:0;padding:0}nav li{margin:.2rem 0}nav ul ul{display:none}
.locales{margin-inline-start:auto;font-size:.9rem}form[role=search]{margin-inline-start:auto;display:flex;gap:.4rem}input,button{font:inherit;padding:.3rem .6rem;border:1px solid #51626b;border-radius:4px;background:#fff;min-width:0}button{background:var(--water);color:#fff;border-color:var(--water)}
.frame{display:flex;flex-wrap:wrap;gap:1.5rem;padding-block:0}.frame main{flex:1 1 22rem;min-width:0;padding:0}.aside{flex:0 1 15rem;border-inline-start:1px solid var(--line);padding-inline-start:1.2rem}
h1{font-size:2.3rem;line-height:1.15;margin-block:1.2rem .6rem}h2{line-height:1.25;margin-block:.4rem .6rem}img,video{max-width:100%;height:auto;border-radius:6px}figure{margin:0}audio{width:100%}
.draft{background:var(--ink);color:#fff;text-align:center;padding:.5rem;margin:0;font:15px sans-serif;position:sticky;top:0;z-index:2}.draft a{color:#ffe9a8}
.row{display:grid;grid-template-columns:repeat(12,minmax(0,1fr));gap:1.6rem;align-items:start}.row>*>:first-child{margin-top:0}.block{margin-block:1.4rem}.space-close{margin-block:.4rem}.space-wide{margin-block:3rem}
.on-mist,.on-sand{padding:1rem 1.2rem;border-radius:8px}.on-mist{background:var(--mist)}.on-sand{background:var(--sand)}
.cards{list-style:none;margin:0;padding:0}.card{display:grid;grid-template-columns:auto 1fr;gap:.2rem 1rem;margin:0 0 1rem;max-width:26rem}.card img{width:8.5rem;aspect-ratio:3/2;object-fit:cover;display:block}.card a{font-weight:bold}.cards p{margin:.1rem 0;color:#43545d;font-size:.95rem}.cards .when{color:var(--ink)}
.cards.wide{display:grid;grid-template-columns:repeat(auto-fill,minmax(min(17rem,100%),1fr));gap:1.4rem}.wide .card{display:block;margin:0}.wide .card img{width:100%;margin-bottom:.4rem}
.shows{display:grid;grid-template-columns:repeat(auto-fit,minmax(min(15rem,100%),1fr));gap:1.6rem}.front>picture img{width:100%;max-height:20rem;object-fit:cover}.hours{display:grid;grid-template-columns:1fr auto;gap:.2rem 1rem;margin:0 0 1rem}.hours dd{margin:0;text-align:end;font-weight:bold}.when{font-style:italic;margin-block:.2rem 1rem}
blockquote{font-style:italic;border-inline-start:3px solid #9bb3bb;margin-inline:0;padding-inline-start:1rem}li{margin:.4rem 0}.phrase{display:flex;flex-wrap:wrap;gap:.6rem;align-items:center}.phrase p{flex-basis:100%;margin:0;color:#8c2f1b}a{color:var(--water)}small{color:#51626b}.summary{font-style:italic}
table{border-collapse:collapse;display:block;overflow-x:auto}th,td{border:1px solid var(--line);padding:.35rem .7rem;text-align:start}th{background:var(--mist)}
footer{background:var(--ink);color:#e8eef0;margin-top:3rem;padding:1.4rem max(1.2rem,calc(50% - 32.8rem))}footer small{color:#c5d0d4}footer p{margin:.2rem 0}
@media (max-width:640px){body{font-size:17px}h1{font-size:1.8rem}.row{display:block}.row>*{margin-block:1.2rem}.hide-narrow{display:none}.aside{border:0;padding:0;flex-basis:100%}form[role=search]{margin:0;flex:1 1 100%}form[role=search] input{flex:1}.card img{width:6.5rem}}@media (min-width:641px){.hide-wide{display:none}}
"""
