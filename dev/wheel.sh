#!/usr/bin/env bash
# The product as one wheel: the package with the built pages, the texts that reading is learned from and what was learned.
set -euo pipefail
cd "$(dirname "$0")/.."
to="${1:-.state/wheel}"
mkdir -p "$to"
stage="$(mktemp -d)"
trap 'rm -rf "$stage"' EXIT
cp pyproject.toml README.md LICENSE "$stage"
cp -r sorta "$stage/sorta"
find "$stage" -name __pycache__ -type d -prune -exec rm -r {} +
cp -r web/dist "$stage/sorta/web"
cp -r texts "$stage/sorta/texts"
rm -f "$to"/sorta-*.whl
# On a server the tools that build it are fetched for the purpose.
isolated=(); if .venv/bin/python -c 'import setuptools, wheel' 2>/dev/null; then isolated=(--no-build-isolation); fi
.venv/bin/python -m pip wheel -q --disable-pip-version-check --no-deps "${isolated[@]}" -w "$to" "$stage"
ls "$to"/sorta-*.whl
