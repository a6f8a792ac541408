"""The addresses of people: a crew's, one's own, those that a link opens; django-allauth’s under its names."""

from django.contrib.auth.views import LogoutView
from django.urls import path

from nivelum.people.views import crew, joining, you

urlpatterns = [
    path("sign-in/", joining.SignIn.as_view(), name="sign-in"),
    path("sign-in/", joining.SignIn.as_view(), name="account_login"),
    path("sign-in/passkey/", joining.sign_in_by_passkey, name="mfa_login_webauthn"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
    path("first/", joining.first, name="first"),
    path("join/<str:token>/", joining.joining, name="join"),
    path("password/<str:token>/", joining.password_again, name="new-password"),
    path("you/", you.you, name="you"),
    path("you/", you.you, name="mfa_index"),
    path("you/data.json", you.own_data, name="own-data"),
    path("you/password/", you.own_password, name="own-password"),
    path("you/hints/", you.put_away, name="put-away"),
    path("help/", you.helped, name="help"),
    path("help/keys/", you.listed_keys, name="keys"),
    path("you/pin/", you.own_pin, name="own-pin"),
    path("you/devices/", you.end_session, name="end-session"),
    path("you/crews/left/", you.leave, name="leave"),
    path("you/crews/new/", you.found, name="found"),
    path("you/forgotten/", you.forget, name="forget"),
    path("you/passkeys/new/", you.AddPasskey.as_view(), name="add-passkey"),
    path("you/passkeys/<int:pk>/removed/", you.RemovePasskey.as_view(), name="remove-passkey"),
    path("you/proof/", you.ProveAgain.as_view(), name="account_reauthenticate"),
    path("crews/<uuid:crew_id>/people/", crew.people, name="people"),
    path("crews/<uuid:crew_id>/all.zip", crew.all_of_it, name="all-of-it"),
    path("crews/<uuid:crew_id>/people/links/", crew.withdraw_invitation, name="withdraw-invitation"),
    path("crews/<uuid:crew_id>/people/<str:what>/", crew.member, name="member"),
]
