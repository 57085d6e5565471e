#!/usr/bin/env bash
# Everything that is decided by reading: lint, types, import contracts, generated files.
set -euo pipefail
cd "$(dirname "$0")/.."
export PATH="$(bash dev/node.sh):$PATH"
.venv/bin/ruff check -q .
.venv/bin/mypy
.venv/bin/lint-imports >/tmp/sorta-imports.$$ || { cat /tmp/sorta-imports.$$; rm -f /tmp/sorta-imports.$$; exit 1; }
rm -f /tmp/sorta-imports.$$
fresh="$(mktemp -d)"
trap 'rm -rf "$fresh"' EXIT
.venv/bin/python -m sorta.main openapi "$fresh/openapi.json"
cmp -s "$fresh/openapi.json" docs/openapi.json || { echo "docs/openapi.json is out of date: run make types"; exit 1; }
(cd web && npx --no-install openapi-typescript "$fresh/openapi.json" -o "$fresh/schema.d.ts" >/dev/null 2>&1)
cmp -s "$fresh/schema.d.ts" web/src/api/schema.d.ts || { echo "web/src/api/schema.d.ts is out of date: run make types"; exit 1; }
(cd web && npm run --silent lint)
echo "lint, types, import contracts and generated files are in order"
