"""The sources of layers and ground items, one file a kind. Nothing outside a kind's file asks which one it is."""
