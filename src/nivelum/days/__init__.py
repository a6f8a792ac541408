"""The Days room: what can we do next, until when, and when is it done?"""
