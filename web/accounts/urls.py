"""Addresses of the accounts."""

from django.contrib.auth import views as auth
from django.urls import path, reverse_lazy

from web.accounts import views

urlpatterns = [
    path("sign-in/", auth.LoginView.as_view(template_name="accounts/sign_in.html", redirect_authenticated_user=True), name="sign-in"),
    path("sign-out/", auth.LogoutView.as_view(), name="sign-out"),
    path("sign-up/", views.sign_up, name="sign-up"),
    path("demo/", views.enter_demo, name="enter-demo"),
    path("password/", auth.PasswordChangeView.as_view(template_name="accounts/form.html", success_url=reverse_lazy("setups"),
         extra_context={"title": "Change password", "action": "Change password"}), name="password-change"),
]
