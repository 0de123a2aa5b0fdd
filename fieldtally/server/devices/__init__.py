"""Devices: instruments that readings are taken from, behind one driver interface; and stand-ins to develop and show with.

Which devices there are is for whoever runs the server to say (``FT_DEVICES``, see docs/devices.md), never for its users: the
server connects to nothing that a request names.
"""
