"""Change every leaf of the floor of every kind, both standards, and compare warm with cold: ``python -m tests.core.every_leaf``."""

from tests.core.test_stages import PLACES, compare

if __name__ == "__main__":
    failed = 0
    for standard, places in PLACES.items():
        for path in places:
            found = compare(standard, path)
            failed += bool(found)
            if found:
                print(standard, path, found[:3], flush=True)
        print(f"{standard}: {len(places)} leaves", flush=True)
    print(f"{failed} differ")
    raise SystemExit(failed > 0)
