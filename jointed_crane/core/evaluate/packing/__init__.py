"""A scene packed for evaluation, once: what does not depend on the frame."""
