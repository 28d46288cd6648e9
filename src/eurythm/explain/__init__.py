"""Whatever asks the pipeline more than once about one question."""
