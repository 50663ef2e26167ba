"""Steps that change colour and light px by px."""
