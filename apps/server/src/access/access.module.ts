/** /api/access: signing in and out, and the guard before every other route. */
import {
  Body,
  Controller,
  Delete,
  Get,
  Global,
  HttpCode,
  Injectable,
  Module,
  Post,
  Req,
  Res,
  type CanActivate,
  type ExecutionContext,
} from '@nestjs/common';
import { APP_GUARD } from '@nestjs/core';
import { ApiTags } from '@nestjs/swagger';
import type { Request, Response } from 'express';
import { createZodDto } from 'nestjs-zod';
import { AppError } from '@lorvek/core';
import { signInSchema, type AccessState } from '@lorvek/model';
import { AccessService } from './access.service.ts';

class SignInDto extends createZodDto(signInSchema) {}

const COOKIE = 'lorvek-session';
const LASTS_MS = 14 * 24 * 3600 * 1000;

const tokenOf = (request: Request): string | undefined =>
  (request.headers.cookie ?? '')
    .split(';')
    .map((part) => part.trim().split('='))
    .find(([name]) => name === COOKIE)?.[1];

const setCookie = (request: Request, response: Response, token: string): void => {
  response.cookie(COOKIE, token, { httpOnly: true, sameSite: 'strict', secure: request.secure, path: '/', maxAge: LASTS_MS });
};

/** What may be asked for without signing in: how to sign in, and whether the server lives. */
const OPEN = /^\/api\/(access|health)$/;

@Injectable()
export class SignedInGuard implements CanActivate {
  constructor(private readonly access: AccessService) {}

  async canActivate(context: ExecutionContext): Promise<boolean> {
    const http = context.switchToHttp();
    const request = http.getRequest<Request>();
    if (OPEN.test(request.path)) return true;
    const { ok, next } = await this.access.admit(tokenOf(request));
    if (!ok) throw new AppError('access.sign-in', 'Sign in first.');
    if (next) setCookie(request, http.getResponse<Response>(), next);
    return true;
  }
}

@ApiTags('access')
@Controller('api/access')
export class AccessController {
  constructor(private readonly access: AccessService) {}

  @Get()
  async state(@Req() request: Request): Promise<AccessState> {
    return { asked: this.access.isAsked, signedIn: (await this.access.admit(tokenOf(request))).ok };
  }

  @Post()
  @HttpCode(200)
  async signIn(@Req() request: Request, @Res({ passthrough: true }) response: Response, @Body() body: SignInDto): Promise<AccessState> {
    await this.access.signOut(tokenOf(request));
    const token = await this.access.signIn(body.passphrase, request.socket.remoteAddress ?? '');
    setCookie(request, response, token);
    return { asked: this.access.isAsked, signedIn: true };
  }

  @Delete()
  async signOut(@Req() request: Request, @Res({ passthrough: true }) response: Response): Promise<AccessState> {
    await this.access.signOut(tokenOf(request));
    response.clearCookie(COOKIE, { path: '/' });
    return { asked: this.access.isAsked, signedIn: !this.access.isAsked };
  }
}

@Global()
@Module({
  controllers: [AccessController],
  providers: [AccessService, { provide: APP_GUARD, useClass: SignedInGuard }],
  exports: [AccessService],
})
export class AccessModule {}
