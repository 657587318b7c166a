"""Finite elements: a flat shell of five unknowns a node, its supports and its solution.

Unknowns of a node, in this order: ``u``, ``v`` (m, along x and y), ``w`` (m, positive down), ``beta_x`` and
``beta_y`` (rad). The depth coordinate zeta is positive down, so that ``u(zeta) = u + zeta beta_x`` and a sagging
moment, which stretches the bottom face, is positive. In a thin plate ``beta = -grad w``. As vectors (right-hand
rule, z up) the rotations are ``theta_x = beta_y`` and ``theta_y = -beta_x``.
"""
