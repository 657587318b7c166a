"""Combinations and the exact envelope over all arrangements of pattern load.

Every response is linear in the load of each panel. So with one solution per unit load (a case, or a case on one
panel), the worst of all 2^n arrangements is the sum of the adverse units alone.
"""
