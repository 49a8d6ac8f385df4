"""The program in a user's desktop: what is written where, and taken away again."""
