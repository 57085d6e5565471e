#!/usr/bin/env bash
# Everything that is decided by reading: lint, types, import contracts, generated files. The pages' part runs beside Python's.
set -euo pipefail
cd "$(dirname "$0")/.."
export PATH="$(bash dev/node.sh):$PATH"
fresh="$(mktemp -d)"
trap 'rm -rf "$fresh"' EXIT
check_pages() {
  cd web
  npx --no-install openapi-typescript "$fresh/openapi.json" -o "$fresh/schema.d.ts" >/dev/null 2>&1
  cmp -s "$fresh/schema.d.ts" src/api/schema.d.ts || { echo "web/src/api/schema.d.ts is out of date: run make types"; exit 1; }
  npm run --silent lint
  npm run --silent format -- --check
}
.venv/bin/python -m sorta.main openapi "$fresh/openapi.json"
cmp -s "$fresh/openapi.json" docs/openapi.json || { echo "docs/openapi.json is out of date: run make types"; exit 1; }
(check_pages) &
pages=$!
.venv/bin/ruff check -q .
.venv/bin/mypy
.venv/bin/lint-imports >"$fresh/imports" || { cat "$fresh/imports"; exit 1; }
wait "$pages"
echo "lint, types, import contracts and generated files are in order"
