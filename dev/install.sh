#!/usr/bin/env bash
# Puts Sorta on a Debian 12: the program in /opt/sorta, the command `sorta`, a user it runs as, units for systemd.
# Run again it upgrades; settings, keys and data are left alone. What to do next is said at the end.
set -euo pipefail
cd "$(dirname "$0")/.."
say() { printf '%s\n' "$*" >&2; }
if [ "$(id -u)" != 0 ]; then say "Installing is for root: sudo make install"; exit 1; fi

bash dev/setup.sh server
wheel="$(bash dev/wheel.sh)"

say "Installing into /opt/sorta ..."
[ -x /opt/sorta/bin/python ] || python3 -m venv /opt/sorta
pip=(/opt/sorta/bin/python -m pip install -q --disable-pip-version-check --root-user-action=ignore --no-deps)
"${pip[@]}" --require-hashes -r requirements.txt
"${pip[@]}" --force-reinstall "$wheel"
ln -sfn /opt/sorta/bin/sorta /usr/local/bin/sorta

getent passwd sorta >/dev/null || useradd --system --user-group --home-dir /var/lib/sorta --shell /usr/sbin/nologin sorta
install -d -m 0700 -o sorta -g sorta /var/lib/sorta
install -d /usr/local/lib/systemd/system
install -m 0644 deploy/*.service deploy/*.timer /usr/local/lib/systemd/system
if [ -d /run/systemd/system ]; then systemctl daemon-reload; fi

if [ -f /etc/sorta/sorta.env ]; then say "Now: sorta init && systemctl restart sorta-web sorta-worker"
else say "Now: sorta init --address https://desk.example.org"; fi
