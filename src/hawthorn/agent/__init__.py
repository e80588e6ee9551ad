"""What assistants use: tools, resources and prompts of the Model Context Protocol, each over calls of the client.

An assistant comes with a key of its own, and is held to its grants, to the checks and the merge, as everybody is: nothing here decides what it may do.
"""
