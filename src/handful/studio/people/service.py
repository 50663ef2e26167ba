"""Rules about people."""

from __future__ import annotations

from django.contrib.auth.models import User

DEMO_ARTIST = "Demo artist"


def demo_artist() -> User:
    """The person of the demo, made when first asked for; it has no password to sign in with."""
    user, made = User.objects.get_or_create(username=DEMO_ARTIST)
    if made:
        user.set_unusable_password()
        user.save()
    return user
