"""Reading a coupon: measurements, verdict, next change."""
