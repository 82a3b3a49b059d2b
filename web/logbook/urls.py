"""Addresses of the log."""

from django.urls import path

from web.logbook import plugs, sensed, views, walks

urlpatterns = [
    path("<int:pk>/", views.page, name="log"),
    path("<int:pk>/add/", views.add, name="log-add"),
    path("<int:pk>/capture/", views.capture, name="log-capture"),
    path("<int:pk>/sound/", sensed.sound, name="log-sound"),
    path("<int:pk>/sound.wav", sensed.sounding, name="log-sounding"),
    path("<int:pk>/display/", sensed.display, name="log-display"),
    path("<int:pk>/<int:entry>/kept/", sensed.evidence_raw, name="log-evidence"),
    path("<int:pk>/correct/", views.correct, name="log-correct"),
    path("<int:pk>/survey/", walks.survey, name="log-survey"),
    path("<int:pk>/survey/next/", walks.survey_next, name="log-survey-next"),
    path("<int:pk>/power.pdf", walks.power_sheet, name="log-power"),
    path("<int:pk>/learning/", walks.learning, name="log-learning"),
    path("<int:pk>/learning/next/", walks.learning_next, name="log-learning-next"),
    path("<int:pk>/plug/", plugs.plug, name="log-plug"),
    path("<int:pk>/pairs/", views.before_and_after, name="log-pairs"),
    path("rig/<int:pk>/", views.of_rig, name="log-rig"),
    path("<int:pk>/file/", views.export, name="log-export"),
    path("<int:pk>/take-in/", views.take_in, name="log-take-in"),
    path("<int:pk>/<int:entry>/drop/", views.drop, name="log-drop"),
]
