"""What a part is made of, as one who makes it would say: holes, slots, bosses, grooves, chamfers, fillets, ribs, patterns."""
