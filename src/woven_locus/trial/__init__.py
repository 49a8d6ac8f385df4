"""Many runs of plans over seeds and settings, here or on a cluster. No Qt."""
