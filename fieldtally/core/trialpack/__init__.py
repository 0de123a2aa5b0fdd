"""The trial pack: a zip of plain tables that any spreadsheet opens, described as a Frictionless Data Package."""
