"""The simulated camera: handwritten sheets of the scenario, photographed on a desk, with the truth about each.

A stand-in for a student with a phone. The demo, the tests and the benchmarks use it; the product does not.
"""
