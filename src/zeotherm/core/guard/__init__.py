"""The one judgement of everything advised: temperatures by fitted parts and plastic, wires by load and rules."""
