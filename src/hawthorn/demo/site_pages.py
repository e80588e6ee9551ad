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
<header><b><a href="{{ link('/' ~ locale) }}">{{ house }}</a></b>
{% if menu %}<nav aria-label="{{ menu.title }}"{{ mark(menu.id) }}><ul>{% for item in menu.fields['items'] or [] %}{% set f = item.fields %}
<li><a href="{{ link((f.to or {}).href) }}"{{ mark(menu.id, 'items:' ~ item.id ~ ':label') }}>{{ f.label or (f.to or {}).text }}</a>
{% if f.below %}<ul>{% for one in f.below %}<li><a href="{{ link((one.fields.to or {}).href) }}">{{ one.fields.label or (one.fields.to or {}).text }}</a></li>{% endfor %}</ul>{% endif %}</li>{% endfor %}</ul></nav>{% endif %}
<span class="locales">{% for l in locales %}{% if l.path and l.locale != locale %}<a href="{{ link(l.path) }}" lang="{{ l.locale }}" hreflang="{{ l.locale }}">{{ l.locale }}</a> {% endif %}{% endfor %}</span></header>
{% block main %}{% endblock %}
<footer><small>An invented museum.</small></footer></body></html>"""

BLOCKS = """
{% macro look(f) %}class="block {{ 'space-' ~ (f.spacing or 'even') }} {{ 'on-' ~ f.background if f.background else '' }} {{ 'hide-' ~ f.hidden if f.hidden else '' }}"{% if f.anchor %} id="{{ f.anchor }}"{% endif %}{% endmacro %}
{% macro picture(ref, crop, id, field) %}{% set p = (ref or {}).file %}{% if p %}{% if (p.media_type or '').startswith('video/') %}
<video controls src="{{ file(p.href) }}"{{ mark(id, field) }}>{% for c in p.captions or [] %}<track kind="captions" src="{{ file(c.href) }}" srclang="{{ c.locale }}" default>{% endfor %}</video>
{% elif (p.media_type or '').startswith('audio/') %}<audio controls src="{{ file(p.href) }}"{{ mark(id, field) }}></audio>
{% else %}{% set r = (p.renditions or {})[crop] %}<picture>{% if r %}<source type="image/avif" srcset="{{ file(r.avif) }}"><source type="image/webp" srcset="{{ file(r.webp) }}">{% endif %}
<img src="{{ file(r.original if r else p.href) }}" alt="{{ p.alt }}" width="{{ r.width if r else p.width }}" height="{{ r.height if r else p.height }}"{{ mark(id, field) }}></picture>{% endif %}{% endif %}{% endmacro %}
{% macro cards(list, id, path) %}<ul class="cards">{% for e in list['items'] %}<li>{% if e.path %}<a href="{{ link(e.path) }}" lang="{{ e.locale }}"{{ mark(e.id, 'title', 'In a list') }}>{{ e.title or 'untitled' }}</a>{% else %}{{ e.title or 'untitled' }}{% endif %}
{% if e.summary %}<p lang="{{ e.locale }}">{{ e.summary }}</p>{% endif %}</li>{% else %}<li>Nothing at present.</li>{% endfor %}</ul>{% endmacro %}
{% macro blocks(items, id, top) %}{% for b in items or [] %}{% set f = b.fields %}{% set at = top ~ ':' ~ b.id %}
{% if b.kind == 'words' %}<div {{ look(f) }}{{ mark(id, at ~ ':text') }}>{{ rich(f.text) }}</div>
{% elif b.kind == 'quote' %}<blockquote {{ look(f) }}{{ mark(id, at ~ ':said') }}>{{ f.said }}{% if f.by in references %} <cite>{{ references[f.by].title }}</cite>{% endif %}</blockquote>
{% elif b.kind == 'picture' %}<figure {{ look(f) }}>{{ picture(references[f.picture], 'wide', id, at ~ ':picture') }}<figcaption{{ mark(id, at ~ ':caption') }}>{{ f.caption or '' }}</figcaption></figure>
{% elif b.kind == 'beside' %}<div {{ look(f) }}><div class="row">{% for c in f.cells or [] %}<div style="grid-column:span {{ 12 // (f.cells|length) }}">{{ blocks([c], id, top) }}</div>{% endfor %}</div></div>
{% elif b.kind == 'row' %}<div {{ look(f) }}><div class="row">{% for c in f.columns or [] %}<div style="grid-column:span {{ c.fields.width or 6 }}" class="{{ 'hide-' ~ c.fields.hidden if c.fields.hidden else '' }}">{{ blocks(c.fields.content, id, top) }}</div>{% endfor %}</div></div>
{% elif b.kind == 'listing' %}<section {{ look(f) }}{{ mark(id, at ~ ':list') }}>{% if f.heading %}<h2{{ mark(id, at ~ ':heading') }}>{{ f.heading }}</h2>{% endif %}{% if f.list %}{{ cards(f.list, id, at) }}{% endif %}</section>
{% elif b.kind == 'kept' %}{% set c = references[f.block] %}{% if c %}<aside {{ look(f) }}{{ mark(id, at ~ ':block') }}>{{ blocks((c.fields or {}).content, c.id, 'content') }}</aside>{% endif %}
{% endif %}{% endfor %}{% endmacro %}"""

ENTRY = """{% extends "page" %}{% from "blocks" import blocks, picture, cards with context %}{% block main %}
<div class="frame"><main{% if entry.fields.aside %} class="with-aside"{% endif %}><article lang="{{ entry.locale }}">
<h1{{ mark(entry.id, 'title') }}>{{ entry.title or 'untitled' }}</h1>
{% if entry.fields.picture in references %}{{ picture(references[entry.fields.picture], 'wide', entry.id, 'picture') }}{% endif %}
{% if entry.fields.summary %}<p class="summary"{{ mark(entry.id, 'summary') }}>{{ entry.fields.summary }}</p>{% endif %}
{% for name in ('body', 'life') %}{% if entry.fields[name] %}<div{{ mark(entry.id, name) }}>{{ rich(entry.fields[name]) }}</div>{% endif %}{% endfor %}
{{ blocks(entry.fields.page, entry.id, 'page') }}
{% if entry.fields.hours %}<dl{{ mark(entry.id, 'hours') }}>{% for h in entry.fields.hours %}<dt>{{ h.fields.days }}</dt><dd>{{ h.fields.hours }}</dd>{% endfor %}</dl>{% endif %}
{% if entry.fields.tickets %}<p><a href="{{ link(entry.fields.tickets.href) }}"{{ mark(entry.id, 'tickets') }}>{{ entry.fields.tickets.text or entry.fields.tickets.href }}</a></p>{% endif %}
{% if below %}<ul class="cards">{% for e in below %}<li>{% if e.path %}<a href="{{ link(e.path) }}" lang="{{ e.locale }}"{{ mark(e.id, 'title', 'Below it') }}>{{ e.title or 'untitled' }}</a>{% else %}{{ e.title or 'untitled' }}{% endif %}</li>{% endfor %}</ul>{% endif %}
<p><small>{% if entry.fields.number %}<span{{ mark(entry.id, 'number') }}>{{ entry.fields.number }}</span> · {% endif %}{% for r in people %}{% if r.path %}<a href="{{ link(r.path) }}">{{ r.title }}</a>{% else %}{{ r.title }}{% endif %} · {% endfor %}Revision {{ entry.revision }}</small></p>
</article></main>
{% if entry.fields.aside %}<aside class="aside" aria-label="Beside">{{ blocks(entry.fields.aside, frame_of('aside'), 'aside') }}</aside>{% endif %}</div>
{% if entry.fields.foot %}<div class="foot">{{ blocks(entry.fields.foot, frame_of('foot'), 'foot') }}</div>{% endif %}
{% endblock %}"""

LOCKED = """{% extends "page" %}{% block main %}<main><h1 lang="{{ entry.locale }}">{{ title }}</h1><p>This page is for those who were given a phrase.</p>
<form method="post" class="phrase"><label for="phrase">Phrase</label><input id="phrase" name="phrase" type="password" required maxlength="200" autocomplete="off"{% if wrong %} aria-describedby="wrong" aria-invalid="true"{% endif %}>
<button>Open the page</button>{% if wrong %}<p id="wrong" role="alert">{{ wrong }}</p>{% endif %}</form></main>{% endblock %}"""

MISSING = """{% extends "page" %}{% block main %}<main><h1>{{ title }}</h1>{% if title == "Not here" %}<p>Nothing is at /{{ path }}.</p>{% endif %}<p><a href="{{ link('/en') }}">To the front page</a></p></main>{% endblock %}"""

CSS = """
:root{color-scheme:light}body{margin:0;font:18px/1.6 Georgia,"Noto Serif CJK JP","Noto Naskh Arabic",serif;color:#20303a;background:#f4f7f7}
header,footer,.frame,.foot,main{max-width:64rem;margin:0 auto;padding:1rem 1.2rem;box-sizing:border-box}header{display:flex;gap:1.2rem;flex-wrap:wrap;align-items:baseline}
header a{color:inherit}header b{font-size:1.2rem}nav ul{display:flex;flex-wrap:wrap;gap:.3rem 1.1rem;list-style:none;margin:0;padding:0}nav ul ul{display:none}.locales{margin-inline-start:auto}
.frame{display:flex;flex-wrap:wrap;gap:1.5rem;padding-block:0}.frame main{flex:1 1 22rem;min-width:0;padding:0}.aside{flex:0 1 15rem;border-inline-start:1px solid #c9d3d6;padding-inline-start:1.2rem}
h1{font-size:2.1rem;line-height:1.2}img,video{max-width:100%;height:auto;border-radius:4px}figure{margin:0}audio{width:100%}
.draft{background:#20303a;color:#fff;text-align:center;padding:.5rem;margin:0;font:15px sans-serif;position:sticky;top:0;z-index:2}.draft a{color:#ffe9a8}
.row{display:grid;grid-template-columns:repeat(12,minmax(0,1fr));gap:1.2rem}.block{margin-block:1.2rem}.space-close{margin-block:.4rem}.space-wide{margin-block:3rem}
.on-mist{background:#e3ecee;padding:1rem 1.2rem;border-radius:6px}.on-sand{background:#f3ead8;padding:1rem 1.2rem;border-radius:6px}.cards{padding-inline-start:1.1rem}.cards p{margin:.1rem 0 .6rem;color:#4a5b64;font-size:.95rem}
blockquote{font-style:italic;border-inline-start:3px solid #9bb3bb;margin-inline:0;padding-inline-start:1rem}li{margin:.4rem 0}.phrase{display:flex;flex-wrap:wrap;gap:.6rem;align-items:center}.phrase input,.phrase button{font:inherit;padding:.35rem .6rem;border:1px solid #51626b;border-radius:3px;background:#fff}.phrase button{background:#1d5a73;color:#fff}.phrase p{flex-basis:100%;margin:0;color:#8c2f1b}a{color:#1d5a73}small{color:#51626b}.summary{font-style:italic}
table{border-collapse:collapse;display:block;overflow-x:auto}th,td{border:1px solid #c9d3d6;padding:.35rem .7rem;text-align:start}th{background:#e3ecee}
@media (max-width:640px){.row{display:block}.row>div{margin-block:1rem}.hide-narrow{display:none}.aside{border:0;padding:0;flex-basis:100%}}@media (min-width:641px){.hide-wide{display:none}}
"""
