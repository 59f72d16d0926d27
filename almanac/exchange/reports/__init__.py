"""What machines say of themselves, in the forms that common open tools print."""
