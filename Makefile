# `make demo` and `make test` do all set-up themselves; the second time it is quick.
SHELL := /bin/bash
# Where this is set every process compiles the whole program anew, which is a second each.
unexport PYTHONDONTWRITEBYTECODE
PY := .venv/bin/python
COMPILE := --generate-hashes --no-emit-index-url --no-emit-find-links --strip-extras --allow-unsafe

.PHONY: mutants reading setup install wheel demo demo-reset test check fmt fuzz soak bench types audit lock screenshots

setup:            ## Debian packages, Python and web dependencies, the built pages
	@bash dev/setup.sh

demo: setup       ## start everything, with the demo's data
	@exec $(PY) -m demo.run

demo-reset: setup ## the same, starting over
	@exec $(PY) -m demo.run --reset

install:          ## Sorta on this server, as root: the command sorta, its user, and units for systemd
	@bash dev/install.sh

wheel: setup      ## the product as one package with the built pages inside
	@bash dev/wheel.sh dist

test: setup check ## all tests
	@$(PY) -m pytest -q -n 2 tests --ignore=tests/e2e
	@$(PY) -m pytest -q -n 2 --dist loadfile --no-loadscope-reorder tests/e2e || \
	  { echo "Those that failed once more, alone: a busy machine can make a browser late."; $(PY) -m pytest -q --last-failed --last-failed-no-failures none tests/e2e; }

check: setup      ## types, lint, import contracts, generated files
	@bash dev/check.sh

fmt: setup        ## put the code in order
	@.venv/bin/ruff check --fix -q . ; .venv/bin/ruff format -q .
	@cd web && PATH="$$(bash ../dev/node.sh):$$PATH" npm run --silent lint -- --fix && npm run --silent format -- --write

types:            ## the API's description and the types made from it (after `make setup`; not before the pages, which need them)
	@$(PY) -m sorta.main openapi docs/openapi.json
	@cd web && PATH="$$(bash ../dev/node.sh):$$PATH" npm run --silent types

fuzz: setup       ## ten thousand bent deliveries and spoilt letters; every way in with more cases, and up to its limit; all pairs of acts at once; more histories and deaths; ten thousand rows
	@SORTA_FUZZ=10000 SORTA_CASES=20 SORTA_SIZES=60000,240000 SORTA_PAIRS=1000 SORTA_MODEL_RUNS=20000 SORTA_DEATHS=200 SORTA_SEEDS=200 SORTA_ROWS=10000 $(PY) -m pytest -q -n 2 \
	  tests/api/test_fuzz.py tests/api/test_description.py tests/api/test_entries.py tests/services/test_at_once.py \
	  tests/services/test_model_rows.py tests/services/test_model_store.py tests/services/test_consent_matrix.py tests/services/test_exactly_once.py \
	  tests/e2e/test_screens.py

mutants: setup    ## how many slips in the core its tests notice: a sample, within a quarter of an hour
	@.venv/bin/pip install -q --require-hashes -r dev/mutants.txt
	@$(PY) -m dev.mutants

soak: setup       ## ten simulated hours with faults, in ten minutes
	@$(PY) -m bench.soak

reading: setup    ## how well messages are read, on texts that reading was not learned from
	@$(PY) -m bench.reading

bench: setup      ## speed, as ratios to floors of the same run
	@$(PY) -m bench.run
	@$(PY) -m bench.rows
	@$(PY) -m bench.big
	@$(PY) -m bench.core
	@$(PY) -m bench.paint
	@$(PY) -m bench.reading --only cost
	@$(PY) -m bench.soak

screenshots: setup ## the pictures in docs/screenshots, from the demo's data
	@$(PY) -m demo.screenshots

audit: setup      ## what the product stands on: versions, dates, what was withdrawn
	@PATH="$$(bash dev/node.sh):$$PATH" $(PY) -m dev.audit

lock: setup       ## requirements.txt (the product) and dev/requirements.txt (it and its tests) from pyproject.toml
	@.venv/bin/pip-compile -q $(COMPILE) -o requirements.txt pyproject.toml
	@.venv/bin/pip-compile -q $(COMPILE) --extra dev -c requirements.txt -o dev/requirements.txt pyproject.toml
	@.venv/bin/pip-compile -q $(COMPILE) -c dev/requirements.txt -o dev/mutants.txt dev/mutants.in
