"""Forms of the accounts."""

from django.contrib.auth.forms import UserCreationForm
from django.contrib.auth.models import User


class SignUpForm(UserCreationForm):
    """A new account."""

    class Meta:
        model = User
        fields = ("username", "email")
