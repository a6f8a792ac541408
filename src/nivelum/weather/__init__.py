"""What is the weather? Forecasts as they came, from a service, a file or typed, kept; how a crew goes by them."""
