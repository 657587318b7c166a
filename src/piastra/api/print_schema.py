"""Print the OpenAPI schema: ``python -m piastra.api.print_schema``."""

import json

from piastra.api.app import create_app

if __name__ == "__main__":
    print(json.dumps(create_app().openapi(), indent=1, sort_keys=True))
