"""Line-up: stations side by side, only like with like, ties shown as ties."""
