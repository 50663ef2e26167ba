"""Who is here: signing in and out."""
