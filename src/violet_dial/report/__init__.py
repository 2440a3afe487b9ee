"""The sheet as HTML and PDF, and the dial drawn without a screen."""
