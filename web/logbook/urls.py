"""Addresses of the log."""

from django.urls import path

from web.logbook import guided_surveys, plugs, sensed, views

urlpatterns = [
    path("<int:pk>/", views.page, name="log"),
    path("<int:pk>/add/", views.add, name="log-add"),
    path("<int:pk>/capture/", views.capture, name="log-capture"),
    path("<int:pk>/sound/", sensed.sound, name="log-sound"),
    path("<int:pk>/sound.wav", sensed.sounding, name="log-sounding"),
    path("<int:pk>/display/", sensed.display, name="log-display"),
    path("<int:pk>/<int:entry>/kept/", sensed.evidence_raw, name="log-evidence"),
    path("<int:pk>/correct/", views.correct, name="log-correct"),
    path("<int:pk>/survey/", guided_surveys.survey, name="log-survey"),
    path("<int:pk>/survey/next/", guided_surveys.survey_next, name="log-survey-next"),
    path("<int:pk>/power.pdf", guided_surveys.power_sheet, name="log-power"),
    path("<int:pk>/learning/", guided_surveys.learning, name="log-learning"),
    path("<int:pk>/learning/next/", guided_surveys.learning_next, name="log-learning-next"),
    path("<int:pk>/plug/", plugs.plug, name="log-plug"),
    path("<int:pk>/pairs/", views.before_and_after, name="log-pairs"),
    path("rig/<int:pk>/", views.of_rig, name="log-rig"),
    path("<int:pk>/file/", views.export, name="log-export"),
    path("<int:pk>/take-in/", views.take_in, name="log-take-in"),
    path("<int:pk>/<int:entry>/drop/", views.drop, name="log-drop"),
]
