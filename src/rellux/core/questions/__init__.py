"""Questions of the bench that need no rig: what each asks for, and its answer. All of them, in order: ``registry``."""
