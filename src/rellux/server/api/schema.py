"""What the schema generator must be told."""

from typing import Any

from drf_spectacular.extensions import OpenApiAuthenticationExtension


class LocalOperatorScheme(OpenApiAuthenticationExtension):
    """No credentials on loopback; writes carry the CSRF token in a header."""

    target_class = "rellux.server.accounts.local.LocalOperator"
    name = "csrf"

    def get_security_definition(self, auto_schema: object) -> dict[str, str]:
        return {"type": "apiKey", "in": "header", "name": "X-CSRFToken"}


def everything_present(result: dict[str, Any], **_: object) -> dict[str, Any]:
    """Responses always carry every property; only requests may leave some out."""
    for name, component in result.get("components", {}).get("schemas", {}).items():
        component.pop("description", None)
        if not name.endswith("Request") and "properties" in component:
            component["required"] = sorted(component["properties"])
    return result
