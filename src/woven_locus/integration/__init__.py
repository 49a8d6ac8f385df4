"""The program in a user's desktop: what is written where, and taken away again."""

# The name under which the desktop knows the program, its window and its icon.
APP_ID = "org.woven_locus.WovenLocus"
