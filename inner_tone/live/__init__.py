"""Playing live: a session that takes events and is asked for sound. It knows no network and no clock."""
