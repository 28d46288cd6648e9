"""Prints the OpenAPI description from which the front end's client is generated."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path

from eurythm.api.app import create_app

if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as folder:
        print(json.dumps(create_app(Path(folder)).openapi(), indent=1))
