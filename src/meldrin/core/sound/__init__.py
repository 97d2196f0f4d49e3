"""Sounding things as tables of partials, the events that play them, and their rendering."""
