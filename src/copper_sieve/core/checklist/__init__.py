"""What seems wrong in a set, each with the figures that say so and a change that would mend it."""
