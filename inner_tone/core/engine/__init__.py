"""The engine: patches into programs, programs into sound."""
