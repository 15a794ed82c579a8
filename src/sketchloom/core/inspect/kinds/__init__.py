"""One small file a kind of finding."""
