"""Material documents, each following its open specification."""
