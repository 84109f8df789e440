# Inbetrieb. The targets a person uses: demo, test, lint, bench, studies, shots, setup.
SHELL := /bin/bash
.SHELLFLAGS := -eu -o pipefail -c
PYTHON ?= python3
PORT ?= 8000
PY := .venv/bin/python
DEMO_DATA := var/demo
COMPILED := $(addprefix core/inbetrieb_core/,$(shell cat core/compiled.txt))
WEB_SOURCES := $(shell find web/src web/public -type f 2>/dev/null) web/index.html web/vite.config.ts

.PHONY: demo setup test lint types unit contract contract-check bench studies shots chromium clean

demo: .stamps/venv web/dist/index.html
	@test -z "$(FRESH)" || rm -rf $(DEMO_DATA)
	@INBETRIEB_DEMO=1 INBETRIEB_DATA=$(DEMO_DATA) $(PY) manage.py migrate -v0
	@INBETRIEB_DEMO=1 INBETRIEB_DATA=$(DEMO_DATA) $(PY) manage.py load_demo
	@echo "Inbetrieb is at http://127.0.0.1:$(PORT)/  (stop with Ctrl-C)"
	@INBETRIEB_DEMO=1 INBETRIEB_DATA=$(DEMO_DATA) $(PY) -m uvicorn server.config.asgi:application \
		--host 127.0.0.1 --port $(PORT) --no-access-log --log-level warning --timeout-graceful-shutdown 2

setup: .stamps/venv .stamps/web

# --- installing --------------------------------------------------------------------------
.stamps/packages: requirements/develop.lock
	@mkdir -p .stamps
	test -x .venv/bin/python || $(PYTHON) -m venv .venv
	.venv/bin/pip install -q --disable-pip-version-check --require-hashes $(PIP_FLAGS) -r requirements/develop.lock
	@touch $@

# The core, its loops of plain numbers compiled; again whenever one of them changes.
.stamps/venv: .stamps/packages pyproject.toml setup.py core/compiled.txt $(COMPILED)
	.venv/bin/pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e .
	@touch $@

.stamps/web: web/package-lock.json web/package.json
	@mkdir -p .stamps
	cd web && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

web/dist/index.html: .stamps/web $(WEB_SOURCES)
	cd web && npm run --silent build
	@touch $@

chromium:
	@bash tests/browser/chromium.sh

# --- checking ----------------------------------------------------------------------------
# Two things at a time: what is installed and checked waits for networks and disks. What the tests
# import is compiled by the way.
test:
	@$(MAKE) --no-print-directory -j2 -O setup chromium PIP_FLAGS=--no-compile
	@$(MAKE) --no-print-directory -j2 -O lint types contract-check web/dist/index.html
	@$(MAKE) --no-print-directory unit

lint: .stamps/venv .stamps/web
	.venv/bin/ruff check .
	.venv/bin/ruff format --check .
	cd web && npm run --silent lint

types: .stamps/venv .stamps/web
	.venv/bin/mypy
	cd web && npm run --silent types

# All tests in one run on two cores: core, server, web modules and the real interface. Two processes whose
# linear algebra takes two threads each would wait for each other.
unit: .stamps/venv .stamps/web
	OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1 $(PY) manage.py test tests --noinput --parallel 2
	@$(PY) -m tests.share

# The contract: OpenAPI snapshot from the server, web client from the snapshot.
contract: .stamps/venv .stamps/web
	$(PY) manage.py export_openapi_schema --api server.config.api.api --indent 1 --sorted > server/openapi.json
	cd web && npm run --silent client
	$(PY) manage.py export_controller_schema > docs/controller-profile.schema.json
	$(PY) manage.py export_calibration_schema > docs/calibration.schema.json

contract-check: .stamps/venv .stamps/web
	@$(PY) manage.py export_openapi_schema --api server.config.api.api --indent 1 --sorted > .stamps/openapi.json
	@cmp .stamps/openapi.json server/openapi.json || { echo "server/openapi.json is stale: run make contract"; exit 1; }
	@$(PY) manage.py export_controller_schema > .stamps/controller.json
	@cmp .stamps/controller.json docs/controller-profile.schema.json || { echo "the controller schema is stale: run make contract"; exit 1; }
	@$(PY) manage.py export_calibration_schema > .stamps/calibration.json
	@cmp .stamps/calibration.json docs/calibration.schema.json || { echo "the calibration schema is stale: run make contract"; exit 1; }
	@cd web && node_modules/.bin/openapi-typescript ../server/openapi.json -o ../.stamps/schema.d.ts > /dev/null
	@cmp .stamps/schema.d.ts web/src/api/schema.d.ts || { echo "the web client is stale: run make contract"; exit 1; }

bench: .stamps/venv
	$(PY) -m benchmarks

# The judgement on many builds and seeds: some minutes.
studies: .stamps/venv
	$(PY) -m benchmarks.studies

shots: setup web/dist/index.html chromium
	$(PY) -m tests.browser.shots

clean:
	rm -rf .venv .stamps web/node_modules web/dist var
