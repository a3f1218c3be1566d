"""What else moves a reading: time, heat, wear, and makers' claims."""
