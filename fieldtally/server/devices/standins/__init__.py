"""Stand-ins for instruments: small local services that talk as real ones would, with noise, drift and faults, from a fixed seed."""
