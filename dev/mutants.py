"""How many slips in the core its tests notice: a sample of what mutmut makes of it, within a quarter of an hour. `make mutants`.

python -m dev.mutants [how many] [dice]      (other dice, any word, choose other slips; tests written for some must not be all there are)

Prints the share that was noticed and every slip that was not, for somebody to write the test.
"""

import json
import os
import random
import subprocess
import sys
import time
import tomllib
from collections import Counter
from pathlib import Path

ROOT = Path(__file__).parent.parent
#: Where slips are made: [tool.mutmut] in pyproject.toml says so.
FILES = [
    Path(one).stem for one in tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["mutmut"]["only_mutate"]
]
SECONDS, SAMPLE = 840, 160
#: What mutmut says of a mutant by its number: killed by a test that failed, or by one that did not come to an end.
KILLED = {1, 3, 24, -24, 36, 152, 255}


def main(many: int = SAMPLE, dice: str = "mutants") -> int:
    begun = time.monotonic()
    made = "from mutmut.__main__ import *; set_mutant_under_test('mutant_generation'); Path('mutants').mkdir(exist_ok=True); copy_src_dir(); copy_also_copy_files(); setup_source_paths(); create_mutants(2)"  # fmt: skip
    subprocess.run([sys.executable, "-c", made], cwd=ROOT, check=True, stdout=subprocess.DEVNULL)
    known = {f: sorted(_read(f)) for f in FILES}
    every = [name for names in known.values() for name in names]
    chosen = sorted(random.Random(dice).sample(every, min(many, len(every))))
    print(f"{len(every)} slips can be made in {len(FILES)} files; {len(chosen)} of them are tried")
    # Some of the histories find what all of them do, as a rule, and each slip is tried with them.
    env = {**os.environ, "SORTA_MODEL_RUNS": "1600"}
    left = SECONDS - (time.monotonic() - begun)
    try:
        subprocess.run([sys.executable, "-m", "mutmut", "run", "--max-children", "2", *chosen], cwd=ROOT, check=False, timeout=left, env=env)  # fmt: skip
    except subprocess.TimeoutExpired:
        print("The time was over before all were tried.")
    said = {name: code for f in FILES for name, code in _read(f).items() if name in set(chosen) and code is not None}
    noticed = {name for name, code in said.items() if code in KILLED}
    for f in FILES:
        of = [name for name in said if name in known[f]]
        print(f"{f:<14}{sum(name in noticed for name in of):>5} of {len(of)}")
    for name in sorted(set(said) - noticed):
        print(f"not noticed: {name} ({said[name]}); see `python -m mutmut show {name}`")
    print(f"noticed: {len(noticed)} of {len(said)}, {100 * len(noticed) / max(1, len(said)):.0f} %   target >= 85")
    print(Counter(said.values()))
    # Tests that could not be run find nothing, and are no good score.
    return 0 if said else 1


def _read(file: str) -> dict[str, int | None]:
    meta = ROOT / "mutants" / "sorta" / "core" / f"{file}.py.meta"
    found: dict[str, int | None] = json.loads(meta.read_text())["exit_code_by_key"]
    return found


if __name__ == "__main__":
    sys.exit(main(*map(int, sys.argv[1:2]), *sys.argv[2:3]))
