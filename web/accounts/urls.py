"""Addresses of the accounts."""

from django.contrib.auth import views as auth
from django.contrib.auth.decorators import login_not_required
from django.urls import path, reverse_lazy

from web.accounts import members, own, views
from web.accounts.access import readers_may
from web.accounts.forms import SignInForm
from web.accounts.limits import limited, mail_of

urlpatterns = [
    path("", own.account, name="account"),
    path("two-factor/", own.two_factor, name="two-factor"),
    path("mail/", own.mail, name="account-mail"),
    path("sessions/end/", own.sessions_end, name="sessions-end"),
    path("delete/", own.delete, name="account-delete"),
    path("members/", members.members, name="members"),
    path("members/invite/", members.invite, name="invite"),
    path("members/<int:pk>/", members.change_member, name="member"),
    path("members/<int:pk>/leave/", members.leave, name="account-leave"),
    path("invitations/<int:pk>/back/", members.take_back, name="invitation-back"),
    path("invitations/<str:token>/", members.invitation, name="invitation"),
    path("switch/", members.switch, name="account-switch"),
    path(
        "sign-in/",
        readers_may(
            limited("sign-in")(
                auth.LoginView.as_view(
                    template_name="accounts/sign_in.html",
                    redirect_authenticated_user=True,
                    authentication_form=SignInForm,
                )
            )
        ),
        name="sign-in",
    ),
    path("sign-out/", login_not_required(readers_may(auth.LogoutView.as_view())), name="sign-out"),
    path("sign-up/", views.sign_up, name="sign-up"),
    path("demo/", views.enter_demo, name="enter-demo"),
    path(
        "password/",
        readers_may(
            own.PasswordChange.as_view(
                template_name="accounts/form.html",
                success_url=reverse_lazy("setups"),
                extra_context={"title": "Change password", "action": "Change password"},
            )
        ),
        name="password-change",
    ),
    path(
        "reset/",
        readers_may(
            limited("reset")(
                limited("reset", by=mail_of)(
                    auth.PasswordResetView.as_view(
                        template_name="accounts/form.html",
                        email_template_name="accounts/reset_mail.txt",
                        subject_template_name="accounts/reset_subject.txt",
                        success_url=reverse_lazy("password-reset-done"),
                        extra_context={"title": "Forgotten password", "action": "Send me a link"},
                    )
                )
            )
        ),
        name="password-reset",
    ),
    path(
        "reset/sent/",
        auth.PasswordResetDoneView.as_view(template_name="accounts/reset_sent.html"),
        name="password-reset-done",
    ),
    path(
        "reset/<str:uidb64>/<str:token>/",
        readers_may(
            own.PasswordReset.as_view(
                template_name="accounts/reset_new.html",
                success_url=reverse_lazy("sign-in"),
                extra_context={"title": "A new password", "action": "Save the password"},
            )
        ),
        name="password-reset-confirm",
    ),
]
