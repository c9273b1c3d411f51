"""What may be chosen of each way out, and how a scene is written as it is chosen.

Each loads what it writes with when it is asked, as commands are soon over.
"""
