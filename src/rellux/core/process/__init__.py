"""Linear models of heating processes and their exact responses: shared by everything that predicts."""
