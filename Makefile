# Everything that is needed is installed by the targets that need it; each step is done again only when its input changed.
SHELL := /bin/bash
VENV := .venv/bin
PYTHON ?= python3

.PHONY: demo test test-only bench torture console check check-python check-console openapi reference pictures wheel bill bill-if-it-can-be audit clean

demo: .stamps/compiled .stamps/console
	$(VENV)/hawthorn demo

test: .stamps/compiled .stamps/console .stamps/browser .stamps/caches .stamps/components .stamps/example
	@# Three at once, each with a museum of its own, so that two cores have work while others wait for a browser or a process; whoever is
	@# done takes from the others.
	PYTHONDONTWRITEBYTECODE= $(VENV)/pytest -n 3 --dist worksteal

bench: .stamps/compiled .stamps/console .stamps/browser .stamps/caches
	$(VENV)/python -m benchmarks.run

# Kills, races, bursts, odd partners and random merges: an hour, or as long as it is told.
SECONDS ?= 3600
torture: .stamps/python
	$(VENV)/python -m tests.torture.run --seconds $(SECONDS)

console: .stamps/console

check: check-python check-console

check-python: .stamps/python
	$(VENV)/ruff check src tests benchmarks scripts
	$(VENV)/ruff format --check src tests benchmarks scripts
	$(VENV)/mypy
	$(VENV)/lint-imports
	$(VENV)/python scripts/openapi.py .stamps/openapi.json .stamps/bureau-protocol.json .stamps/package.schema.json
	diff -u src/hawthorn/service/openapi.json .stamps/openapi.json || { echo "src/hawthorn/service/openapi.json is not what the code says: run make openapi"; exit 1; }
	diff -u docs/bureau-protocol.json .stamps/bureau-protocol.json || { echo "docs/bureau-protocol.json is not what the code says: run make openapi"; exit 1; }
	diff -u docs/package.schema.json .stamps/package.schema.json || { echo "docs/package.schema.json is not what the code says: run make openapi"; exit 1; }
	$(VENV)/python scripts/reference.py .stamps/reference.md
	diff -u docs/reference.md .stamps/reference.md || { echo "docs/reference.md is not what the code says: run make reference"; exit 1; }

check-console: .stamps/console .stamps/example
	cd console && npm run --silent check && npm run --silent lint && npm run --silent size
	cd examples/sveltekit && npm run --silent check

openapi: .stamps/python
	$(VENV)/python scripts/openapi.py src/hawthorn/service/openapi.json docs/bureau-protocol.json docs/package.schema.json

reference: .stamps/python
	$(VENV)/python scripts/reference.py docs/reference.md
	$(VENV)/python scripts/helps.py src/hawthorn/messages/en

# The wheel, with the console in it and a bill of what both are made of (CycloneDX) beside it.
wheel: .stamps/python .stamps/console bill
	$(VENV)/uv build --quiet --wheel --no-build-isolation --out-dir dist

bill: .stamps/python .stamps/npm
	@mkdir -p dist
	$(VENV)/uv tool run --quiet --from cyclonedx-bom==7.5.0 cyclonedx-py requirements requirements.lock --output-format JSON --output-file dist/hawthorn.cdx.json
	cd console && npm sbom --silent --sbom-format cyclonedx --omit dev > ../dist/hawthorn-console.cdx.json

# The same where nothing hangs on it: without a bill of what it is made of nothing is wrong with a change itself.
bill-if-it-can-be: .stamps/python .stamps/npm
	+@$(MAKE) --no-print-directory bill || echo "no bill of materials could be made here"

audit: .stamps/python
	$(VENV)/python scripts/audit.py

pictures: .stamps/python .stamps/console .stamps/browser
	$(VENV)/python scripts/pictures.py docs/screenshots

.stamps/python: requirements.lock pyproject.toml
	@mkdir -p .stamps
	test -x $(VENV)/python || $(PYTHON) -m venv .venv
	$(VENV)/python -m pip install --quiet --disable-pip-version-check uv==0.13.9
	$(VENV)/uv pip install --quiet --compile-bytecode --require-hashes -r requirements.lock
	$(VENV)/uv pip install --quiet --no-deps --no-build-isolation -e .
	@touch $@

# Compiled once, so that no start does it again where the environment keeps Python from writing what it compiled.
.stamps/compiled: .stamps/python $(shell find src benchmarks -name '*.py')
	$(VENV)/python -m compileall -q src benchmarks
	@touch $@

.stamps/npm: console/package.json console/package-lock.json
	@mkdir -p .stamps
	@command -v npm > /dev/null || { echo "npm (with Node 20 or later) is needed to build the console"; exit 1; }
	cd console && npm ci --silent
	@touch $@

.stamps/console: .stamps/npm src/hawthorn/service/openapi.json console/index.html $(wildcard console/*.ts) console/package.json $(wildcard docs/*.md) $(shell find console/src console/public -type f ! -name schema.d.ts)
	cd console && npm run --silent build
	@touch $@

# The console's components and what it works out, without a browser; again only when something of it changed.
.stamps/components: .stamps/console $(shell find console/tests -type f)
	cd console && npm test --silent
	@touch $@

# The example site in SvelteKit, as whoever begins from it builds it.
.stamps/example: $(shell find examples/sveltekit -type f -not -path '*/node_modules/*' -not -path '*/.svelte-kit/*' -not -path '*/build/*')
	@mkdir -p .stamps
	cd examples/sveltekit && npm ci --silent && npm run --silent build > /dev/null
	@touch $@

# Chromium without windows (the whole one where there is no such package) and the fonts of the demo's languages, from Debian's packages.
.stamps/browser:
	@mkdir -p .stamps
	@if ! command -v chromium-headless-shell > /dev/null || ! fc-list 2> /dev/null | grep -q "Noto Sans CJK"; then \
	  SUDO=$$(test $$(id -u) = 0 || echo sudo); \
	  $$SUDO apt-get update -qq; \
	  for browser in chromium-headless-shell chromium; do \
	    $$SUDO env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends \
	      $$browser fontconfig fonts-noto-cjk fonts-noto-core fonts-noto-color-emoji > /dev/null && break; \
	  done; \
	fi
	@command -v chromium-headless-shell chromium > /dev/null
	@touch $@

# The caches that the service is tried behind, and a load generator, from Debian's packages; nothing of them is begun. Where they
# cannot be had, what takes them is left out, and says so.
.stamps/caches:
	@mkdir -p .stamps
	@export PATH="$$PATH:/usr/sbin"; \
	if ! { command -v nginx && command -v varnishd && command -v wrk; } > /dev/null; then \
	  SUDO=$$(test $$(id -u) = 0 || echo sudo); \
	  { $$SUDO apt-get update -qq && \
	    $$SUDO env RUNLEVEL=1 DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends nginx-light varnish wrk > /dev/null; } \
	    || echo "nginx, varnish and wrk could not be installed: what takes them is left out"; \
	fi
	@touch $@

clean:
	rm -rf .stamps .venv console/node_modules src/hawthorn/console_dist examples/sveltekit/node_modules examples/sveltekit/build examples/sveltekit/.svelte-kit
