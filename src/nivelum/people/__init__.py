"""Who is of a crew, how do they get in, and how do they prove who they are? Invitations, roles, devices, passkeys."""
