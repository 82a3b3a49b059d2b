"""Steady state: amps and volts of legs and neutral, limits, the path's parts."""
