"""Who is at the keyboard. Rellux listens on loopback only, so whoever reaches it is the local operator."""

from django.http import HttpRequest
from rest_framework.authentication import SessionAuthentication

from .models import User

LOCAL = "operator"


def local_operator() -> User:
    """The one local user, made on first use."""
    return User.objects.get_or_create(username=LOCAL, defaults={"title": "Operator"})[0]


class LocalOperator(SessionAuthentication):
    """Every request is the local operator's; writes must carry the CSRF token all the same."""

    def authenticate(self, request: HttpRequest) -> tuple[User, None]:
        self.enforce_csrf(request)
        return local_operator(), None
