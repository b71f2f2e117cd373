# Answers lines of KIND, X, Y (tab-separated) with Python's packaging library.
import sys

if len(sys.argv) > 1:  # where to find another copy of the library
    sys.path.insert(0, sys.argv[1])
from packaging.specifiers import InvalidSpecifier, SpecifierSet
from packaging.version import InvalidVersion, Version


def answer(kind, x, y):
    try:
        if kind == "order":
            a, b = Version(x), Version(y)
            return str((a > b) - (a < b))
        return str(SpecifierSet(x).contains(Version(y))).lower()
    except (InvalidVersion, InvalidSpecifier):
        return "error"


for line in sys.stdin:
    print(answer(*line.rstrip("\n").split("\t")))
