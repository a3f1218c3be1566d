"""Change single lines of core, app and store, and see whether the tests notice.

    ./run mutants [COUNT [SEED]]     random single changes, seeded
    ./run mutants aimed              the listed ones, which once lived

First all tests are run on the tree as it is, noting which functions each of them enters
(`tools/reach.py`; REACH names a folder where an earlier run left that). Then each mutant is tried
in a copy of the tree, two at a time, with the tests that enter the changed function: the nearest
and quickest first, until one fails or ENOUGH seconds of them have passed. A survivor may thus be
one that a later test would have caught, never the other way round. Prints the survivors and the
share killed. Left alone is what changes nothing that can be observed: annotations, and the guards
strict=, frozen=, slots= and kw_only= (true or false, right code behaves the same).
"""

import ast
import concurrent.futures
import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
PARTS = ("core", "app", "store")
NEAREST = {
    "core": ("tests/core", "tests/app", "tests/store", "tests/demo", "tests/ui"),
    "app": ("tests/app", "tests/store", "tests/demo", "tests/ui", "tests/core"),
    "store": ("tests/store", "tests/app", "tests/demo", "tests/ui", "tests/core"),
}
ENOUGH = 300.0
"""s of tests, as they took on the tree as it is: what a mutant is given."""
WORKERS = 2

AIMED = (
    (
        "core/design/lay.py",
        "rng.permutation(np.array(hand, dtype=np.intp))",
        "np.array(hand, dtype=np.intp)",
        "dealing made not random",
    ),
    (
        "core/design/lay.py",
        "worked[int(i)] for i in rng.permutation(len(worked))",
        "w for w in worked",
        "run order made not random",
    ),
    ("core/judgement.py", "stdtrit(df, 0.95)", "stdtrit(df, 0.975)", "bars at another quantile"),
    ("core/readings/clarity.py", "higher_is_better=True", "higher_is_better=False", "direction"),
    ("core/words/result.py", "; only {", "; all {", "only for all"),
    ("core/dataset.py", "columns.stage[after]", "columns.ordinal[after]", "the wrong column"),
    ("core/dataset.py", "rows(source, AFTER)", 'rows(source, "unwiped")', "unwiped in means"),
    ("store/csv_readings.py", "math.fsum(v) / len(v)", "v[-1]", "the last baseline"),
    ("store/csv_rows.py", "scale if BY_KEY[measurand].scales", '"" if measurand', "scale lost"),
    ("store/csv_rows.py", "(r - 1, c - 1)", "(c - 1, r - 1)", "row and column swapped"),
    ("app/session.py", "self._undone.clear()", "pass", "redo not emptied"),
    ("app/commands/readings.py", "now, not self.struck)", "now, self.struck)", "undo of strike"),
    ("app/commands/combinations.py", "if used:", "if used > 1:", "one cell removable"),
    (
        "app/commands/layout.py",
        "            if count:",
        "            if count > 1:",
        "a read cell given another",
    ),
    ("app/presenters/reading.py", "default=0) + 1", "default=0)", "an ordinal used again"),
    ("store/workshop.py", "synchronous = FULL", "synchronous = OFF", "synchronous off"),
    ("store/admission.py", "0 <= c.row < taping.rows", "-1 <= c.row < taping.rows", "row 0 taken"),
    ("core/trial.py", "not 1 <= reading.stage", "not 0 <= reading.stage", "stage 0 taken"),
    (
        "store/admission.py",
        "if s.struck and not s.reason",
        "if False and not s.reason",
        "no reason",
    ),
)

SWAPS = {
    ast.Lt: ast.LtE,
    ast.LtE: ast.Lt,
    ast.Gt: ast.GtE,
    ast.GtE: ast.Gt,
    ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.Add: ast.Sub,
    ast.Sub: ast.Add,
    ast.Mult: ast.Div,
    ast.Div: ast.Mult,
    ast.And: ast.Or,
    ast.Or: ast.And,
    ast.In: ast.NotIn,
    ast.NotIn: ast.In,
    ast.Is: ast.IsNot,
    ast.IsNot: ast.Is,
}
GUARDS = {"strict", "frozen", "slots", "kw_only"}
NAMES = {"min": "max", "max": "min", "any": "all", "all": "any"}


def sites(tree):
    """Return what can be changed in a module: (node, what to do, words) each."""
    found = []
    for node in ast.walk(tree):
        if isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in SWAPS:
            found.append((node, "compare"))
        elif isinstance(node, ast.BinOp) and type(node.op) in SWAPS:
            text = isinstance(node.left, ast.Constant) and isinstance(node.left.value, str)
            if not text and not isinstance(node.left, ast.JoinedStr):
                found.append((node, "operator"))
        elif isinstance(node, ast.BoolOp):
            found.append((node, "bool"))
        elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
            found.append((node, "not"))
        elif isinstance(node, ast.Constant) and type(node.value) in (int, float, bool):
            found.append((node, "constant"))
        elif isinstance(node, ast.Name) and node.id in NAMES:
            found.append((node, "name"))
    return found


def change(node, how, rng):
    """Change a node in place and say what was done."""
    if how == "compare":
        node.ops[0] = SWAPS[type(node.ops[0])]()
    elif how in ("operator", "bool"):
        node.op = SWAPS[type(node.op)]()
    elif how == "not":
        node.operand = ast.UnaryOp(ast.Not(), node.operand)
    elif how == "name":
        node.id = NAMES[node.id]
    elif isinstance(node.value, bool):
        node.value = not node.value
    elif isinstance(node.value, int):
        node.value += rng.choice([-1, 1])
    else:
        node.value = node.value * 1.5 if node.value else 1.0


def skipped(tree, node):
    """Tell whether a node is where no test can see: in an annotation, or a guard's value."""
    for parent in ast.walk(tree):
        if isinstance(parent, ast.keyword) and parent.arg in GUARDS and parent.value is node:
            return True
        for field in ("annotation", "returns"):
            noted = getattr(parent, field, None)
            if noted is not None and any(n is node for n in ast.walk(noted)):
                return True
    return False


def random_mutants(count, seed):
    """Return (file, line, words, mutated source) each."""
    rng = random.Random(seed)
    files = [f for part in PARTS for f in sorted((ROOT / "src/loam" / part).rglob("*.py"))]
    weighted = [f for f in files for _ in range(len(sites(ast.parse(f.read_text()))))]
    mutants = []
    while len(mutants) < count:
        file = rng.choice(weighted)
        tree = ast.parse(file.read_text())
        node, how = rng.choice(sites(tree))
        if skipped(tree, node):
            continue
        before = ast.unparse(node)
        change(node, how, rng)
        after = ast.unparse(node)
        if before == after:
            continue
        source = ast.unparse(ast.fix_missing_locations(tree))
        name = str(file.relative_to(ROOT / "src/loam"))
        mutants.append((name, node.lineno, f"{before[:70]}  ->  {after[:70]}", source))
    return mutants


def aimed_mutants():
    """Return the listed mutants; one whose line is gone is said."""
    mutants = []
    for name, old, new, words in AIMED:
        source = (ROOT / "src/loam" / name).read_text()
        if old not in source:
            print(f"GONE {name}: {old!r} ({words})")
            continue
        line = source[: source.index(old)].count("\n") + 1
        mutants.append((name, line, f"{words}: {old} -> {new}", source.replace(old, new)))
    return mutants


def reached(folder):
    """Run all tests on the tree as it is; return {test: (seconds, functions)}, None when they fail.

    What an earlier run left in `folder` is taken as it is.
    """
    if not any(folder.glob("*.json")):
        environment = {
            **os.environ,
            "REACH": str(folder),
            "PYTHONPATH": os.pathsep.join([str(ROOT / "src"), str(ROOT / "tools")]),
        }
        done = subprocess.run(
            [sys.executable, "-m", "pytest", "-q", "-p", "reach", "-n", str(WORKERS)],
            cwd=ROOT,
            env=environment,
            check=False,
        )
        if done.returncode:
            return None
    tests = {}
    for part in folder.glob("*.json"):
        tests.update(json.loads(part.read_text())["tests"])
    return {test: (seconds, set(functions)) for test, (seconds, functions) in tests.items()}


def lines_of(source, line):
    """Return the first and last line of the innermost function round a line; None outside one."""
    around = [
        (min([node.lineno, *(d.lineno for d in node.decorator_list)]), node.end_lineno)
        for node in ast.walk(ast.parse(source))
        if isinstance(node, ast.FunctionDef)
    ]
    around = [(first, last) for first, last in around if first <= line <= last]
    return max(around, default=None)


def tests_for(name, line, tests):
    """Return the tests to try on a changed line, the nearest and quickest first."""
    lines = lines_of((ROOT / "src/loam" / name).read_text(), line)
    first, last = lines or (0, 10**9)

    def enters(function):
        file, at = function.rsplit(":", 1)
        return file == name and first <= int(at) <= last

    entering = [test for test, (_, functions) in tests.items() if any(map(enters, functions))]
    entering = entering or list(tests)  # a table, say: no function stands round it
    order = NEAREST.get(name.split("/")[0], NEAREST["core"])
    entering.sort(key=lambda t: (order.index("/".join(t.split("/")[:2])), tests[t][0]))
    chosen, spent = [], 0.0
    for test in entering:
        spent += tests[test][0]
        if spent > ENOUGH and chosen:
            break
        chosen.append(test)
    return chosen


def attempt(mutant, tests):
    """Run the tests of a changed line on it; True when they notice."""
    name, line, _, source = mutant
    chosen = tests_for(name, line, tests)
    if not chosen:
        return False
    with tempfile.TemporaryDirectory() as place:
        tree = Path(place)
        for part in ("src", "tests", "pyproject.toml"):
            origin = ROOT / part
            if origin.is_dir():
                shutil.copytree(origin, tree / part, ignore=shutil.ignore_patterns("__pycache__"))
            else:
                shutil.copy(origin, tree / part)
        (tree / "src/loam" / name).write_text(source)
        (tree / "chosen").write_text("\n".join(chosen))
        environment = {
            **os.environ,
            "PYTHONPATH": str(tree / "src"),
            "PYTHONDONTWRITEBYTECODE": "1",
        }
        try:
            done = subprocess.run(
                [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", "@chosen"],
                cwd=tree,
                env=environment,
                capture_output=True,
                text=True,
                timeout=1200,
                check=False,
            )
        except subprocess.TimeoutExpired:
            return True
        if done.returncode == 5:  # no test was found: that tells nothing of the mutant
            raise RuntimeError(done.stdout[-2000:] + done.stderr[-2000:])
        return done.returncode != 0


def main():
    """Try mutants and print which the tests did not notice."""
    words = sys.argv[1:]
    if words[:1] == ["aimed"]:
        mutants = aimed_mutants()
    else:
        count, seed = (int(w) for w in [*words, *["60", "1"][len(words) :]])
        mutants = random_mutants(count, seed)
    with tempfile.TemporaryDirectory() as place:
        tests = reached(Path(os.environ.get("REACH", place)))
    if tests is None:
        print("The tests fail on the tree as it is: no mutant would tell anything. Run ./run test.")
        return 1
    killed = 0
    with concurrent.futures.ThreadPoolExecutor(WORKERS) as pool:
        tried = {pool.submit(attempt, mutant, tests): mutant for mutant in mutants}
        for done, future in enumerate(concurrent.futures.as_completed(tried), 1):
            mutant = tried[future]
            killed += future.result()
            if not future.result():
                print(f"LIVES {mutant[0]}:{mutant[1]}  {mutant[2]}", flush=True)
            if done % 5 == 0 and done < len(mutants):
                print(f"{killed} of {done} killed so far", flush=True)
    print(f"{killed} of {len(mutants)} killed ({100 * killed / max(len(mutants), 1):.0f} %)")

    return 0


if __name__ == "__main__":
    sys.exit(main())
