"""What goes to and fro between the workers and whoever asks them: verbs, what they are asked and what they answer."""
