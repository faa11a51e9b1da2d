"""Tests of playing live."""
