"""A board behind a pseudo-terminal that prints what it is told to, byte for byte."""

import os
import pty
import threading
import tty


class Board:
    """Prints ``line(n)`` every ``every_s`` until stopped or unplugged."""

    def __init__(self, line, every_s=0.02):
        self.ours, self._theirs = pty.openpty()
        tty.setraw(self.ours)
        tty.setraw(self._theirs)
        self.device, self.line, self.every_s, self.printed = os.ttyname(self._theirs), line, every_s, 0
        self.stopping = threading.Event()
        self.thread = threading.Thread(target=self._run, daemon=True)
        self.thread.start()

    def say(self, data):
        os.write(self.ours, data)

    def _run(self):
        while not self.stopping.wait(self.every_s):
            os.set_blocking(self.ours, False)
            try:
                self.say(self.line(self.printed).encode("latin-1"))
            except BlockingIOError:
                os.read(self._theirs, 65_536)  # nobody listens: what was said is gone
            self.printed += 1

    def unplug(self):
        self.stopping.set()
        self.thread.join(5)
        os.close(self.ours)
        os.close(self._theirs)
