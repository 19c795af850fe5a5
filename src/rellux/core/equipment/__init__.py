"""What the workshop owns by the piece: probes, limiters, controllers, switches and references, each with a record that moves with it."""
