"""What layers and ground items show, one file a kind. Nothing outside a kind's file asks which one it is."""
