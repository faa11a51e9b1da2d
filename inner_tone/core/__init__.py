"""Pure computation: synthesis, measurement, patches and lessons. No HTTP, no SQL, no files."""
