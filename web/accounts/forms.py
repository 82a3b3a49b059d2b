"""Forms of the accounts."""

from __future__ import annotations

from django import forms
from django.contrib.auth.forms import AuthenticationForm, UserCreationForm
from django.contrib.auth.models import User
from django_otp import devices_for_user, match_token, user_has_device


class SignUpForm(UserCreationForm[User]):
    """A new account."""

    class Meta:
        model = User
        fields = ("username", "email")


class SignInForm(AuthenticationForm):
    """Name and password, and the six digits of whoever uses a second factor."""

    code = forms.CharField(label="Six digits", required=False, max_length=16)

    def clean(self) -> dict[str, object]:
        """Ask for the second factor only once the first is right."""
        cleaned: dict[str, object] = super().clean()
        user = self.get_user()
        if user is not None and user_has_device(user):
            code = str(cleaned.get("code") or "").replace(" ", "")
            if not code:
                self.ask_code = True
                raise forms.ValidationError("Type the six digits of your second factor, too.")
            self.ask_code = True
            if _slowed(user):
                wait = "Too many wrong codes. Wait a minute, then type a fresh one."
                raise forms.ValidationError(wait)
            if match_token(user, code) is None:
                fresh = "That code does not match. Type the one your device shows now."
                raise forms.ValidationError(fresh)
        return cleaned

    ask_code = False


def _slowed(user: User) -> bool:
    """Whether so many wrong codes came lately that none is looked at for a while."""
    return any(not device.verify_is_allowed()[0] for device in devices_for_user(user))
