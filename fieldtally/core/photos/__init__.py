"""What a picture tells about itself: the light it was taken in."""
