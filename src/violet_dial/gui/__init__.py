"""The window: it reads frozen views of the job, draws them and sends acts. It computes nothing."""
