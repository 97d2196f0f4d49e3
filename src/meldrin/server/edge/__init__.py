"""What every request passes on its way in and out, whatever it asks."""
